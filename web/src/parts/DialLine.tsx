import { useVocabulary } from "../state/vocabulary";
import { Amount, type AmountProps } from "../ui/Amount";
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
export function DialLine({ of, name, by = 1, ...given }: DialLineProps) {
  const dial = useVocabulary().numbers[of]?.[name];
  return dial ? <Amount {...scale(times(dial, by))} {...given} /> : null;
}
