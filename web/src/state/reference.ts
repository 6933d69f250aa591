// The reference: a picture that a look is lit towards, how it lies by the picture, and what was read of both.

import { create } from "zustand";
import type { Questions } from "../api/types";
import { ask } from "./asking";
import { editLook } from "./edits";
import { lookRow } from "./look";
import { say } from "./queries";
import { get as studio } from "./store";

export type Area = [number, number, number, number];
type Point = [number, number];
export type Beside = Questions["beside"]["answer"];
type Proposals = Questions["nearer"]["answer"];
type SunHeight = Questions["shadow"]["answer"];
export type Proposal = Proposals["found"][number];

interface Reference {
  /** How it lies by the picture. */
  lies: "hidden" | "corner" | "beside" | "wipe";
  /** Wipe from the left, 0…1. */
  wipe: number;
  read: Beside | null;
  proposals: Proposals | null;
  busy: boolean;
  /** Areas are dragged out: first the key, then the fill. */
  marking: boolean;
  itsAreas: Area[];
  myAreas: Area[];
  /** Points of an edge and its shadow that were clicked; null: none are asked for. */
  edge: Point[] | null;
  sun: SunHeight | null;
}

const nothing = {
  read: null,
  proposals: null,
  busy: false,
  marking: false,
  itsAreas: [],
  myAreas: [],
  edge: null,
  sun: null,
};

export const useReference = create<Reference>(() => ({ lies: "corner", wipe: 0.5, ...nothing }));

export const set = useReference.setState;
const get = useReference.getState;

export const pictureOf = (asset: string) => `/api/references/${asset}/picture`;

const chosen = () => lookRow(studio())?.settings.reference ?? null;

/** Light the look towards a picture, or towards none. */
export function chooseReference(asset: string | null, name: string) {
  set({ ...nothing });
  return editLook({ reference: asset }, asset ? `Reference ${name}` : "No reference");
}

/** Another look has another reference: what was read of the last one is not its. */
export const forget = () => set({ ...nothing });

/** Read it beside the present picture. */
export async function readBeside() {
  const asset = chosen();
  if (!asset) return;
  const { itsAreas, myAreas } = get();
  const read = await ask("beside", { asset, its_areas: itsAreas, my_areas: myAreas });
  if (chosen() === asset) set({ read });
}

/** Ask what would bring the picture nearer. */
export async function comeNearer() {
  const asset = chosen();
  if (!asset || get().busy) return;
  set({ busy: true });
  try {
    const proposals = await ask("nearer", { asset, its_areas: [], my_areas: [] });
    if (chosen() === asset) set({ proposals });
  } catch (error) {
    say(error);
  } finally {
    set({ busy: false });
  }
}

/** Take one step; what is left to do is then asked anew. */
export async function takeStep(step: Proposal) {
  await editLook(step.look, step.title);
  await comeNearer();
}

/** An area was dragged out; two of them are key and fill, a third begins again. */
export function addArea(of: "itsAreas" | "myAreas", area: Area) {
  set((s) => ({ [of]: s[of].length === 2 ? [area] : [...s[of], area] }));
  const { itsAreas, myAreas } = get();
  if (itsAreas.length === 2 && myAreas.length === 2) set({ marking: false });
}

/** A point of an edge was clicked: foot, top, end of the shadow. */
export async function addPoint(point: Point) {
  const asset = chosen();
  const edge = [...(get().edge ?? []), point];
  if (edge.length < 3 || !asset) {
    set({ edge, sun: null });
    return;
  }
  set({ edge: null });
  try {
    set({ sun: await ask("shadow", { asset, points: edge }) });
  } catch (error) {
    say(error);
  }
}
