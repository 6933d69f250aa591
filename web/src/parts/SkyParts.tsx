import { Row } from "../ui/Row";
import type { Look, SkyCard } from "../api/types";
import { editLook } from "../state/edits";
import { hold, release } from "../state/held";
import { DialLine } from "./DialLine";
import { signed } from "./words";
import { Select } from "../ui/Select";
import { Cheat } from "../ui/Tip";

type Hdri = Look["sky"]["hdri"];

/** Stops at which a part is off. */
const OFF = -10;
const PARTS = [
  ["lighting", "Lighting"],
  ["seen", "Background"],
  ["mirrored", "Reflections"],
] as const;

/** What of a sky picture lights, is seen and is mirrored, each by itself. */
export function SkyParts({ hdri, shelf }: { hdri: Hdri; shelf: SkyCard[] }) {
  const choose = (asset: string) =>
    void editLook(
      {
        sky: {
          hdri: {
            other: asset || null,
            other_name: shelf.find((s) => s.asset === asset)?.name ?? "",
          },
        },
      },
      "Picture in reflections",
    );
  return (
    <div role="group" aria-label="Parts of its light" className="mt-1 border-t border-rule pt-1">
      {PARTS.map(([key, label]) => (
        <div key={key} className="flex items-center">
          <div className="min-w-0 flex-1">
            <DialLine
              of="hdri"
              name={key}
              value={hdri[key]}
              write={(v) => (v <= OFF ? "off" : `${signed(v)} EV`)}
              read={(t) => (/off/i.test(t) ? OFF : Number.parseFloat(t.replace("−", "-")))}
              onHold={(v) => hold({ look: { sky: { hdri: { [key]: v } } } }, false)}
              onRelease={() => void release(`${label}: sky`)}
            />
          </div>
          {hdri[key] !== 0 && (
            <Cheat why="A cheat: a sky is one thing to all that see it" className="ml-1" />
          )}
        </div>
      ))}
      <Row label="Reflect" named>
        <Select
          label="Reflect"
          value={hdri.other ?? ""}
          options={[
            { value: "", label: "this picture" },
            ...shelf
              .filter((s) => s.asset !== hdri.asset)
              .map((s) => ({ value: s.asset, label: s.name })),
          ]}
          onPick={choose}
        />
      </Row>
    </div>
  );
}
