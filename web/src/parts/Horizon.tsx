import type { Look } from "../api/types";
import { hold, release } from "../state/held";
import { useVocabulary } from "../state/vocabulary";
import { Cheat } from "../ui/Tip";
import { DialLine } from "./DialLine";

const KEYS = ["colourful", "horizon_deg", "horizon_blur_deg"] as const;

/** Where a sky ends and how, and how much colour a computed one has. */
export function Horizon({ sky }: { sky: Look["sky"] }) {
  const dials = useVocabulary().numbers.sky ?? {};
  return KEYS.filter((key) => key !== "colourful" || sky.model !== "hdri").map((key) => (
    <div key={key} className="flex items-center">
      <div className="min-w-0 flex-1">
        <DialLine
          of="sky"
          name={key}
          value={sky[key]}
          onHold={(v) => hold({ look: { sky: { [key]: v } } } as never, false)}
          onRelease={() => void release(`${dials[key]?.label ?? ""} of the sky`)}
        />
      </div>
      {sky[key] !== dials[key]?.normal && (
        <Cheat why="A cheat: no such sky stands over this place" className="ml-1" />
      )}
    </div>
  ));
}
