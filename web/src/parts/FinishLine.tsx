import type { Look } from "../api/types";
import { hold, release } from "../state/held";
import { useLook } from "../state/look";
import { Amount, type AmountKind } from "../ui/Amount";

export type FinishState = Look["finish"];
type Group = keyof FinishState;

export const plus =
  (digits: number, unit = "") =>
  (v: number) =>
    `${v > 0 ? "+" : ""}${v.toFixed(digits).replace("-", "−")}${unit}`;
export const share = (v: number) => `${(v * 100).toFixed(0)} %`;
export const readShare = (t: string) => Number.parseFloat(t) / 100;
/** How a share of 0…1 is written and read. */
export const SHARE = [share, { read: readShare }] as const;

type LineProps = AmountKind & { group: Group; name: string };

/** One number of the finish; double click brings it back to where it changes nothing. */
function Line({ group, name, ...p }: LineProps) {
  const finish = useLook()?.finish;
  if (!finish) return null;
  const value = (finish[group] as Record<string, unknown>)[name] as number;
  return (
    <Amount
      {...p}
      value={value}
      onHold={(v) => hold({ look: { finish: { [group]: { [name]: v } } } }, false)}
      onRelease={() => void release(p.label)}
    />
  );
}

/** One line of the finish, as a row of a table. */
export const line = (
  group: Group,
  name: string,
  label: string,
  min: number,
  max: number,
  step: number,
  normal: number,
  write: (v: number) => string,
  more: Partial<LineProps> = {},
) => <Line {...{ group, name, label, min, max, step, normal, write }} {...more} />;
