// What stands in the strip: which sources have a card, which are folded into one, and in which order.

import { create } from "zustand";
import type { Mix, Project } from "../api/types";
import { edit } from "./edits";
import { newGesture } from "./held";
import { type SourceLine } from "./look";
import { type Contribution } from "./store/picture";

interface Strip {
  /** Groups whose members stand beside the group's card. */
  unfolded: Record<string, boolean>;
  /** Sources without light in this view stand in the strip, too. */
  darkShown: boolean;
  order: "given" | "share";
}

export const useStrip = create<Strip>(() => ({
  unfolded: {},
  darkShown: false,
  order: localStorage.getItem("strip-order") === "share" ? "share" : "given",
}));

export const setStrip = useStrip.setState;

export function orderStrip(order: Strip["order"]) {
  localStorage.setItem("strip-order", order);
  setStrip({ order });
}

export type Card =
  | { kind: "source"; id: string; source: SourceLine; member: boolean }
  | { kind: "group"; id: string; name: string; members: SourceLine[]; open: boolean }
  | { kind: "dark"; id: "dark"; sources: SourceLine[]; open: boolean };

type Prints = Record<string, Pick<Contribution, "share" | "lit">>;

/** Its light was looked for, and none of it is in this view. */
const isDark = (print: Prints[string] | undefined) => !!print && print.share !== null && !print.lit;

/** Cards of the strip from left to right; what is dark here folds into the last one, but never what is chosen. */
export function cardsOf(
  sources: SourceLine[],
  prints: Prints,
  { unfolded, darkShown, order }: Strip,
  selected: string,
): Card[] {
  const dark = sources.filter(
    (s) => !["sun", "sky"].includes(s.id) && s.id !== selected && isDark(prints[s.id]),
  );
  // One dark source costs no more room by itself than folded.
  const folded = new Set(dark.length > 1 ? dark.map((s) => s.id) : []);
  const rest = sources.filter((s) => !folded.has(s.id));
  const share = (s: SourceLine) => prints[s.id]?.share ?? 0;
  const cards: Card[] = [];
  const seen = new Set<string>();
  for (const source of rest) {
    const { group } = source;
    const members = group ? rest.filter((s) => s.group === group) : [];
    if (members.length < 2 || !group) {
      cards.push({ kind: "source", id: source.id, source, member: false });
      continue;
    }
    if (seen.has(group)) continue;
    seen.add(group);
    const open = unfolded[group] ?? members.some((s) => s.id === selected);
    cards.push({ kind: "group", id: `group ${group}`, name: group, members, open });
  }
  const weight = (c: Card) =>
    c.kind === "source" ? share(c.source) : c.kind === "group" ? sum(c.members.map(share)) : 0;
  if (order === "share") cards.sort((a, b) => weight(b) - weight(a));
  const all = cards.flatMap((c): Card[] =>
    c.kind === "group" && c.open
      ? [
          c,
          ...(order === "share"
            ? [...c.members].sort((a, b) => share(b) - share(a))
            : c.members
          ).map((source): Card => ({ kind: "source", id: source.id, source, member: true })),
        ]
      : [c],
  );
  if (folded.size > 0) {
    all.push({ kind: "dark", id: "dark", sources: dark, open: darkShown });
    if (darkShown)
      all.push(
        ...dark.map((source): Card => ({ kind: "source", id: source.id, source, member: true })),
      );
  }
  return all;
}

const sum = (values: number[]) => values.reduce((a, b) => a + b, 0);

/** Part of the picture's light that several sources make; null while none of them is known. */
export function shareOf(sources: { id: string }[], prints: Prints): number | null {
  const known = sources.map((s) => prints[s.id]?.share ?? null).filter((v) => v !== null);
  return known.length ? sum(known) : null;
}

/** Put a lamp where another one stands in the list of sources; one step of undo. */
export async function moveSource(project: Project, id: string, before: string | null) {
  const ids = project.sources.map((s) => s.id).filter((other) => other !== id);
  const at = before === null ? ids.length : ids.indexOf(before);
  if (at < 0 || !project.sources.some((s) => s.id === id)) return;
  ids.splice(at, 0, id);
  const gesture = newGesture();
  const name = project.sources.find((s) => s.id === id)?.name ?? "";
  for (const [position, other] of ids.entries())
    if (project.sources[position]?.id !== other)
      await edit("source", other, { position }, `Move ${name} in the strip`, gesture);
}

/** What a level, solo or mute of a card belongs to. */
export type Change = (mix: Partial<Mix>, label: string) => void;
