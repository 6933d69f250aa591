// What the hand holds is shown at once, and saved when it is let go.

import type { Addition } from "../api/types";
import { edit, editLook, editModel } from "./edits";
import { merge } from "./merge";
import { get, set, type State, useStudio } from "./store";
import type { Held } from "./store/hand";

/** Show a change at once without saving it. `moving`: light must be traced for it. */
export function hold(held: Held, moving: boolean) {
  set((s) => ({ held: merge(s.held ?? {}, held), moving: moving || s.moving }));
}

/** A name for edits that belong together: they become one step of undo. */
export const newGesture = () => `${Date.now()}-${Math.random()}`;

/** Save what is held, as one step of undo. */
export async function release(label: string, gesture = newGesture()) {
  const { held, viewId } = get();
  if (!held) return;
  set({ moving: false });
  if (held.look) await editLook(held.look, label, gesture);
  if (held.model) await editModel(held.model.edits, label, gesture);
  if (held.view) await edit("view", viewId, { settings: held.view }, label, gesture);
  for (const [id, settings] of Object.entries(held.sources ?? {}))
    await edit("source", id, { settings }, label, gesture);
  // A new drag may have begun while the last one was being saved.
  if (get().held === held) set({ held: null });
}

const NONE: Addition[] = [];

/** Additions as they are shown: the saved ones, or those that the hand moves. */
const additionsOf = (s: State) =>
  s.held?.model?.edits.additions ?? s.project?.models[0]?.settings.edits.additions ?? NONE;

export const useAdditions = () => useStudio(additionsOf);

/** Show an addition moved, without saving it. */
export function holdAddition(id: string, patch: Partial<Addition>) {
  const additions = additionsOf(get()).map((a) => (a.id === id ? { ...a, ...patch } : a));
  hold({ model: { edits: { additions } } }, true);
}
