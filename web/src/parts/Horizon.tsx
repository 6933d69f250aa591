import type { Look } from "../api/types";
import { hold, release } from "../state/held";
import { Amount, type AmountKind } from "../ui/Amount";
import { Cheat } from "../ui/Tip";

type Key = "colourful" | "horizon_deg" | "horizon_blur_deg";

const degrees = (v: number) => `${v.toFixed(1).replace("-", "−")}°`;
const read = (t: string) => Number.parseFloat(t.replace("−", "-"));

const LINES: Record<Key, AmountKind> = {
  colourful: {
    label: "Colour",
    min: 0,
    max: 2,
    step: 0.01,
    normal: 1,
    write: (v) => `${(v * 100).toFixed(0)} %`,
    read: (t) => read(t) / 100,
  },
  horizon_deg: {
    label: "Horizon",
    min: -15,
    max: 30,
    step: 0.5,
    normal: 0,
    write: degrees,
    read,
  },
  horizon_blur_deg: {
    label: "Horizon blur",
    min: 0,
    max: 30,
    step: 0.5,
    normal: 0,
    write: degrees,
    read,
  },
};

/** Where a sky ends and how, and how much colour a computed one has. */
export function Horizon({ sky }: { sky: Look["sky"] }) {
  const keys = (Object.keys(LINES) as Key[]).filter(
    (key) => key !== "colourful" || sky.model !== "hdri",
  );
  return keys.map((key) => (
    <div key={key} className="flex items-center">
      <div className="min-w-0 flex-1">
        <Amount
          {...LINES[key]}
          value={sky[key]}
          onHold={(v) => hold({ look: { sky: { [key]: v } } } as never, false)}
          onRelease={() => void release(`${LINES[key].label} of the sky`)}
        />
      </div>
      {sky[key] !== LINES[key].normal && (
        <Cheat why="A cheat: no such sky stands over this place" className="ml-1" />
      )}
    </div>
  ));
}
