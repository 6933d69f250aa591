import type { Mix } from "../api/types";
import { stepDone } from "../state/firstSteps";
import { hold, release } from "../state/held";
import { lookRow } from "../state/look";
import { useStudio } from "../state/store";
import { DialLine } from "./DialLine";
import { signed } from "./words";

/** The level of a source or group in the mix of the look, as the hand holds it: it alone is drawn anew while it moves. */
export function Level({ id, name, bare }: { id: string; name: string; bare?: boolean }) {
  const level = useStudio(
    (s) => s.held?.look?.mix?.[id]?.level ?? lookRow(s)?.settings.mix[id]?.level ?? 0,
  );
  const told = bare ? { bare, label: `Level of ${name}`, write: (v: number) => signed(v) } : {};
  return (
    <DialLine
      of="mix"
      name="level"
      {...told}
      value={level}
      onHold={(v) => hold({ look: { mix: { [id]: { level: v } as Mix } } }, false)}
      onRelease={() => {
        stepDone("level");
        void release(`Level of ${name}`);
      }}
    />
  );
}
