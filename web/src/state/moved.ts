// Parts of the building that were moved or copied: as they are shown, and how a hand changes them.

import { useMemo } from "react";
import type { Building, ModelEdits, Moved, PartCopy } from "../api/types";
import { editModel } from "./edits";
import { hold } from "./held";
import { merge } from "./merge";
import { get, type State, useStudio } from "./store";

type Point = [number, number, number];
export const IN_PLACE: Moved = { by: [0, 0, 0], turn_deg: 0, size: 1 };

/** What was moved, as one list: parts by their name in the file, copies by their id. */
export interface Placed extends Moved {
  kind: "part" | "copy";
  id: string;
  /** The part in the file. */
  of: string;
  /** What it is called. */
  name: string;
}

/** What the plan of a building depends on: its file, how it stands, what was moved in it. */
export const standing = (id: string, { up, scale, edits }: Building) =>
  JSON.stringify([id, up, scale, edits.moved, edits.copies]);

const savedEdits = (s: State) => s.project?.models[0]?.settings.edits;
const heldEdits = (s: State) => s.held?.model?.edits;

const editsOf = (s: State): ModelEdits | undefined => {
  const saved = savedEdits(s);
  const held = heldEdits(s);
  return saved && held ? merge(saved, held) : saved;
};

const placedOf = (edits: ModelEdits | undefined): Placed[] => [
  ...Object.entries(edits?.moved ?? {}).map(([of, m]) => ({
    ...m,
    kind: "part" as const,
    id: of,
    of,
    name: edits?.names[of] ?? of,
  })),
  ...(edits?.copies ?? []).map((c) => ({ ...c, kind: "copy" as const })),
];

export function usePlaced(): Placed[] {
  const saved = useStudio(savedEdits);
  const held = useStudio(heldEdits);
  return useMemo(() => placedOf(saved && held ? merge(saved, held) : saved), [saved, held]);
}

export const placedAs = (kind: string, id: string) =>
  placedOf(editsOf(get())).find((p) => p.kind === kind && p.id === id);

const copiesNow = () => editsOf(get())?.copies ?? [];

/** The edit that places something otherwise. */
function placing(p: Placed, patch: Partial<Moved>): Partial<ModelEdits> {
  if (p.kind === "part") return { moved: { [p.id]: patch } } as unknown as Partial<ModelEdits>;
  return { copies: copiesNow().map((c) => (c.id === p.id ? { ...c, ...patch } : c)) };
}

/** Show something placed otherwise, without saving it. */
export function holdPlaced(kind: string, id: string, patch: Partial<Moved>) {
  const p = placedAs(kind, id);
  if (p) hold({ model: { edits: placing(p, patch) } }, true);
}

/** Take hold of a part, so that it can be moved: it stands where it stood. */
export async function takeHold(part: string) {
  if (savedEdits(get())?.moved[part]) return;
  const name = savedEdits(get())?.names[part] ?? part;
  await editModel({ moved: { [part]: IN_PLACE } }, `Take hold of ${name}`);
}

/** A copy beside what it is a copy of. */
export function copyOf(p: Pick<Placed, "of" | "name"> & Partial<Moved>, aside: Point): PartCopy {
  const taken = new Set(copiesNow().map((c) => c.name));
  let name = `${p.name} copy`;
  for (let n = 2; taken.has(name); n++) name = `${p.name} copy ${n}`;
  const by = (p.by ?? IN_PLACE.by).map((v, i) => v + (aside[i] ?? 0)) as Point;
  const id = Math.random().toString(36).slice(2, 10);
  return { id, of: p.of, name, by, turn_deg: p.turn_deg ?? 0, size: p.size ?? 1 };
}

/** One more of a part, a little aside. */
export async function copyPart(part: string) {
  const saved = savedEdits(get());
  const now = saved?.moved[part];
  const made = copyOf({ of: part, name: saved?.names[part] ?? part, ...now }, [0.6, 0, 0]);
  await addCopy(made);
}

/** Back to where the file has it; a copy goes. */
export function putBack(p: Placed) {
  if (p.kind === "copy") {
    const copies = copiesNow().filter((c) => c.id !== p.id);
    return editModel({ copies }, `Remove ${p.name}`);
  }
  const moved = { [p.id]: null } as unknown as ModelEdits["moved"];
  return editModel({ moved }, `${p.name} back in its place`);
}

/** All parts of a kind are moved as one of them is. */
export function moveAlike(p: Placed, names: string[]) {
  const { by, turn_deg, size } = p;
  const moved = Object.fromEntries(names.map((n) => [n, { by, turn_deg, size }]));
  return editModel({ moved }, `Move all ${names.length} like ${p.name}`);
}

export const holdCopy = (made: PartCopy) =>
  hold({ model: { edits: { copies: [...copiesNow(), made] } } }, true);

export const addCopy = (made: PartCopy) =>
  editModel({ copies: [...copiesNow(), made] }, `Add ${made.name}`);
