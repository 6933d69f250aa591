import { useVocabulary } from "../state/vocabulary";
import { Amount, type AmountProps } from "../ui/Amount";
import { scale } from "./dial";

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
    | "mix"
    | "fixture"
    | "still"
    | "series"
    | "order"
    | "again"
    | "copy";
  name: string;
}

/** A number that is drawn by what the server tells of it; what is given here goes before that. */
export function DialLine({ of, name, ...given }: DialLineProps) {
  const dial = useVocabulary().numbers[of]?.[name];
  return dial ? <Amount {...scale(dial)} {...given} /> : null;
}
