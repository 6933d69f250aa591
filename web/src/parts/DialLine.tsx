import { useVocabulary } from "../state/vocabulary";
import { memo } from "react";
import { Amount, type AmountProps, useLatest } from "../ui/Amount";
import { scale, times } from "./dial";

type Told = "value" | "onHold" | "onRelease";
interface DialLineProps extends Pick<AmountProps, Told>, Partial<Omit<AmountProps, Told>> {
  /** What it is a number of, and its name there. */
  of:
    | "sun"
    | "sky"
    | "graded"
    | "hdri"
    | "exposure"
    | "clay"
    | "haze"
    | "view"
    | "dress"
    | "opening"
    | "planting"
    | "stroke"
    | "brush"
    | "addition"
    | "moved"
    | "landing"
    | "spread"
    | "light_plan"
    | "grid"
    | "mix"
    | "fixture"
    | "still"
    | "series"
    | "order"
    | "again"
    | "copy";
  name: string;
  /** What one of its unit is in the unit that is shown. */
  by?: number;
}

/** A number that is drawn by what the server tells of it; what is given here goes before that. */
export function DialLine({ onHold, onRelease, write, read, ...given }: DialLineProps) {
  const held = useLatest(onHold);
  const released = useLatest(onRelease);
  const readAs = useLatest(read ?? Number);
  return (
    <Line
      {...given}
      onHold={held}
      onRelease={released}
      text={write?.(given.value)}
      read={read && readAs}
    />
  );
}

interface LineProps extends Omit<DialLineProps, "write"> {
  /** How the value is written, where that is not as the server tells. */
  text?: string | undefined;
}

/** The same, drawn anew only for its own value: what it does stays the same function. */
const Line = memo(function Line({ of, name, by = 1, text, read, ...given }: LineProps) {
  const dial = useVocabulary().numbers[of]?.[name];
  if (!dial) return null;
  const drawn = scale(times(dial, by));
  return (
    <Amount
      {...drawn}
      {...given}
      read={read ?? drawn.read}
      write={text === undefined ? drawn.write : () => text}
    />
  );
});
