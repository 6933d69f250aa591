import type { Look } from "../api/types";
import { hold, release } from "../state/held";
import { useLookPart } from "../state/look";
import { useVocabulary } from "../state/vocabulary";
import { Amount } from "../ui/Amount";
import { scale } from "./dial";

export type FinishState = Look["finish"];
type Group = Exclude<keyof FinishState, "parts">;

/** Numbers of a group of the finish. */
type Numbers<G extends Group> = {
  [K in keyof FinishState[G]]: FinishState[G][K] extends number ? K : never;
}[keyof FinishState[G]];

/** One number of the finish, drawn as the server tells; double click brings it back to where it changes nothing. */
export function FinishLine<G extends Group>({ group, name }: { group: G; name: Numbers<G> }) {
  const finish = useLookPart("finish");
  const dial = useVocabulary().finish[group]?.[name as string];
  if (!finish || !dial) return null;
  return (
    <Amount
      {...scale(dial)}
      value={finish[group][name] as number}
      onHold={(v) => hold({ look: { finish: { [group]: { [name]: v } } } }, false)}
      onRelease={() => void release(dial.label)}
    />
  );
}
