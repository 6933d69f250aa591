// A hand in the picture: what it can take hold of, and what follows it while it holds something.

import { create } from "zustand";
import type { Addition, Fixture, Mark, ModelEdits, View } from "../api/types";
import { ask, pick } from "./asking";
import { edit, editModel } from "./edits";
import { hold, holdAddition, newGesture, release } from "./held";
import { lookRow, viewRow } from "./look";
import { copyOf, holdCopy, holdPlaced, placedAs, putBack } from "./moved";
import { get, set } from "./store";
import { stepDone } from "./firstSteps";
import { timeNear } from "./sunPath";

type Point = [number, number, number];

/** What a hand holds: a mark, and by what name the mark that follows it is known; a patch of sunlight, with what the sun turns about; the focus. */
export type Holding =
  | { what: "mark"; mark: Mark; name: string; from: string }
  | { what: "patch"; hinge: Point }
  | { what: "focus" };

interface Hands {
  marks: Mark[];
  /** All marks are shown, whatever the stage: while a key is held. */
  all: boolean;
  holding: Holding | null;
  /** Where the hand is, in shares of the picture. */
  at: [number, number];
  /** Corners of the opening that is held, where it is now. */
  outline: [number, number][] | null;
  /** Sunlight lies under the pointer, and can be taken hold of. */
  sunny: boolean;
  /** Which copy of the selected lamp was taken last. */
  place: number;
  /** Where the focus was set last in the picture. */
  focus: [number, number];
}

export const useHands = create<Hands>(() => ({
  marks: [],
  all: false,
  holding: null,
  at: [0, 0],
  outline: null,
  sunny: false,
  place: 0,
  focus: [0.5, 0.5],
}));
export const setHands = useHands.setState;
const hands = useHands.getState;

/** Step of a nudge in metres, and the fine one. */
const NUDGE_M = 0.05;
const FINE_M = 0.01;
/** Stops of one notch of the wheel. */
const NOTCH_EV = 0.2;
/** After so long without another notch or key, they are one step of undo, in ms. */
const SETTLE = 500;

/** What marks depend on: asked anew when it changes. */
export const marksOf = () => {
  const { project, held, viewId } = get();
  const model = project?.models[0];
  const places = project?.sources.map(
    (s) => s.settings.kind === "fixture" && [s.id, s.settings.shape, s.settings.places],
  );
  return JSON.stringify([
    viewId,
    viewRow(get())?.settings,
    held?.view,
    places,
    model?.id,
    model?.settings.edits,
  ]);
};

export async function askMarks() {
  const { marks } = await ask("marks", {});
  if (!hands().holding) setHands({ marks });
}

const fixture = (id: string): Fixture | null => {
  const { project, held } = get();
  const source = project?.sources.find((s) => s.id === id);
  if (source?.settings.kind !== "fixture") return null;
  return { ...source.settings, ...(held?.sources?.[id] as Partial<Fixture> | undefined) };
};

type AddedOpening = ModelEdits["added_openings"][number];

/** Openings placed by hand, as they are shown. */
const byHand = (): AddedOpening[] =>
  get().held?.model?.edits.added_openings ??
  get().project?.models[0]?.settings.edits.added_openings ??
  [];

/** Show an opening moved; one that was found stands for itself no more, but for what the hand made of it. */
function holdOpening(name: string, position: Point) {
  const added_openings = byHand().map((o) => (o.name === name ? { ...o, position } : o));
  hold({ model: { edits: { added_openings } } }, true);
}

/** An opening of the hand's own, from one that is there: itself, if it was placed by hand and is not copied. */
function ownOpening(first: AddedOpening, copy: boolean): string {
  const known = byHand();
  if (!copy && known.some((o) => o.name === first.name)) return first.name;
  const stem = `${first.name} by hand`;
  let name = stem;
  for (let n = 2; known.some((o) => o.name === name); n++) name = `${stem} ${n}`;
  const added_openings = [...known, { ...first, name }];
  const openings = copy ? {} : { [first.name]: { on: false, turned: false, gain: 0 } };
  const edits = { added_openings, openings } as Partial<ModelEdits>;
  hold({ model: { edits } }, true);
  return name;
}

/** Parts of the building, and copies of them. */
const ofBuilding = (mark: Mark) => mark.kind === "part" || mark.kind === "copy";

const additions = () =>
  get().held?.model?.edits.additions ?? get().project?.models[0]?.settings.edits.additions ?? [];

/** Show a copy of a lamp changed, without saving it. */
function holdPlace(mark: Mark, patch: Partial<Fixture["places"][number]>) {
  const f = fixture(mark.of);
  if (!f) return;
  const places = f.places.map((p, i) => (i === mark.place ? { ...p, ...patch } : p));
  hold({ sources: { [mark.of]: { places } as Partial<Fixture> } }, true);
}

export function select(mark: Mark) {
  setHands({ place: mark.place });
  if (mark.kind === "lamp" || mark.kind === "aim") set({ selected: mark.of });
  else if (mark.kind === "opening") set({ stage: "Daylight", openingsShown: true });
  else set({ stage: "Site" });
}

/** Take hold of a mark; with ``copy`` of a copy of it, which is made for that. */
export function take(mark: Mark, at: [number, number], copy: boolean) {
  select(mark);
  let taken = mark;
  if (mark.kind === "opening") {
    if (!mark.opening) return;
    taken = { ...mark, of: ownOpening(mark.opening, copy) };
  }
  if (copy && mark.kind === "lamp") {
    const f = fixture(mark.of);
    const first = f?.places[mark.place];
    if (!f || !first) return;
    taken = { ...mark, place: f.places.length };
    hold(
      { sources: { [mark.of]: { places: [...f.places, { ...first }] } as Partial<Fixture> } },
      true,
    );
  } else if (copy && (mark.kind === "part" || mark.kind === "copy")) {
    const first = placedAs(mark.kind, mark.of);
    if (!first) return;
    const made = copyOf(first, [0, 0, 0]);
    taken = { ...mark, kind: "copy", of: made.id };
    holdCopy(made);
  } else if (copy && mark.kind === "addition") {
    const first = additions().find((a) => a.id === mark.of);
    if (!first) return;
    const id = Math.random().toString(36).slice(2, 10);
    taken = { ...mark, of: id };
    const made: Addition = { ...first, id, name: `${first.name} copy` };
    hold({ model: { edits: { additions: [...additions(), made] } } }, true);
  }
  const copied = copy && mark.kind !== "aim";
  const name = copied ? "Copy" : mark.kind === "aim" ? "Aim" : "Move";
  // A found opening that is moved becomes one of the hand's own, under the mark that was taken.
  const from = copied ? taken.of : mark.of;
  const holding: Holding = { what: "mark", mark: taken, name: `${name} ${mark.name}`, from };
  setHands({ holding, at, place: taken.place, outline: null });
}

/** The pointer is down on sunlight. */
let pressed = false;

/** Whether sunlight lies at a point of the picture. */
export async function feelSun(x: number, y: number) {
  const { hinge } = await ask("patch", { x, y, hinge: null });
  if (!hands().holding) setHands({ sunny: hinge !== null });
}

/** Take hold of the sunlight at a point, if the pointer is still down when it is known to be there. */
export async function takeSun(x: number, y: number) {
  pressed = true;
  const { hinge } = await ask("patch", { x, y, hinge: null });
  if (pressed && hinge && !hands().holding) {
    set({ selected: "sun" });
    setHands({ holding: { what: "patch", hinge: hinge as Point }, at: [x, y] });
  }
}

/** What was let go of while the answer about its last place was still on its way. */
const leaving = new Set<Holding>();
const next = new Map<Holding, () => Promise<void>>();
let answered: Promise<void> | null = null;

/** One question at a time: of the places a fast hand passes only the newest is asked about. */
function latest(holding: Holding, work: () => Promise<void>) {
  next.set(holding, work);
  answered ??= (async () => {
    try {
      for (const [of, now] of next) {
        next.delete(of);
        await now();
      }
    } finally {
      answered = null;
    }
  })();
  // A question that was not answered leaves things where the last answer put them.
  answered.catch(() => undefined);
}

const wanted = (holding: Holding) => hands().holding === holding || leaving.has(holding);

/** The hand has moved. Alt lifts off the surface; Shift keeps the sun on its path of that day. */
export function carry(x: number, y: number, keys: { altKey: boolean; shiftKey: boolean }) {
  const { holding } = hands();
  if (!holding) return;
  setHands({ at: [x, y] });
  if (holding.what === "focus") return;
  latest(holding, async () => {
    if (!wanted(holding)) return;
    if (holding.what === "patch") await carrySun(holding, x, y, keys.shiftKey);
    else if (holding.what === "mark") await carryMark(holding, x, y, keys.altKey);
  });
}

async function carrySun(
  holding: Extract<Holding, { what: "patch" }>,
  x: number,
  y: number,
  onPath: boolean,
) {
  const { azimuth_deg, elevation_deg } = await ask("patch", { x, y, hinge: holding.hinge });
  if (!wanted(holding) || azimuth_deg === null || elevation_deg === null) return;
  if (onPath)
    hold({ look: { minutes: timeNear(azimuth_deg, elevation_deg), sun: { mode: "time" } } }, true);
  else hold({ look: { sun: { mode: "free", azimuth_deg, elevation_deg } } }, true);
}

async function carryMark(
  holding: Extract<Holding, { what: "mark" }>,
  x: number,
  y: number,
  lift: boolean,
) {
  const { mark } = holding;
  const { kind, of, place } = mark;
  const slid = await ask("slide", { kind, of, place, x, y, lift });
  if (!wanted(holding)) return;
  const position = slid.position as Point | null;
  const direction = slid.direction as Point | null;
  if (kind === "opening") {
    if (position) holdOpening(of, position);
    setHands({ outline: (slid.corners as [number, number][] | null) ?? null });
  } else if (kind === "part" || kind === "copy") {
    if (slid.by) holdPlaced(kind, of, { by: slid.by as Point });
  } else if (kind === "addition") {
    if (!position) return;
    const turn = slid.turn_deg === null ? {} : { turn_deg: slid.turn_deg };
    holdAddition(of, { position, ...turn });
  } else if (position || direction)
    holdPlace(mark, { ...(position && { position }), ...(direction && { direction }) });
}

/** The hand lets go: what it moved is saved as one step. */
export async function letGo() {
  pressed = false;
  const { holding, at } = hands();
  if (!holding) return;
  setHands({ holding: null, sunny: false, outline: null });
  if (holding.what === "focus") {
    setHands({ focus: at });
    const hit = await pick(...at);
    if (!hit.hit || hit.depth === null) {
      set({ problem: "There is nothing to focus on at this point; drop it on a surface." });
      return;
    }
    const settings = { focus_m: Math.max(hit.depth, 0.05), depth_of_field: true };
    await edit("view", get().viewId, { settings }, "Focus");
    return;
  }
  // A fast hand is past the last answer: where it let go is what counts.
  leaving.add(holding);
  try {
    await answered;
  } catch {
    // Said by the connection.
  }
  leaving.delete(holding);
  if (holding.what === "patch") stepDone("sun");
  await release(holding.what === "patch" ? "Move the sunlight" : holding.name);
}

/** Escape: everything is as it was before the hand took hold; whether it held anything. */
export function giveUp() {
  pressed = false;
  const { holding } = hands();
  if (!holding) return false;
  next.delete(holding);
  setHands({ holding: null, sunny: false, outline: null });
  set({ held: null, moving: false });
  return true;
}

let settling: ReturnType<typeof setTimeout> | undefined;
let gesture = "";

/** Save what is held once the hand has rested. */
function settle(label: string) {
  if (settling === undefined) gesture = newGesture();
  clearTimeout(settling);
  settling = setTimeout(() => {
    settling = undefined;
    void release(label, gesture);
  }, SETTLE);
}

/** The wheel over a selected lamp: its level. */
export function notch(mark: Mark, up: boolean) {
  const saved = lookRow(get())?.settings.mix[mark.of]?.level ?? 0;
  const now = get().held?.look?.mix?.[mark.of]?.level ?? saved;
  const level = Math.round(Math.min(Math.max(now + (up ? NOTCH_EV : -NOTCH_EV), -8), 8) * 10) / 10;
  hold({ look: { mix: { [mark.of]: { level } } } }, false);
  settle(`Level of ${mark.name}`);
}

/** Right and forward on the ground, as the camera sees them. */
export function ground(view: View): [Point, Point] {
  const dx = view.target[0] - view.position[0];
  const dy = view.target[1] - view.position[1];
  const length = Math.hypot(dx, dy) || 1;
  const forward: Point = [dx / length, dy / length, 0];
  return [[forward[1], -forward[0], 0], forward];
}

/** Right, as the camera sees it, and up in the plane of an opening. */
function alongPlane(inward: Point, view: View): [Point, Point] {
  const level = Math.hypot(inward[0], inward[1]);
  if (level < 0.3) return ground(view);
  const [x, y] = [inward[0] / level, inward[1] / level];
  const [seen] = ground(view);
  const right: Point = y * seen[0] - x * seen[1] >= 0 ? [y, -x, 0] : [-y, x, 0];
  return [right, [0, 0, 1]];
}

/** Keys on a mark: arrows move it as seen, Page Up and Down lift it; Shift in small steps. */
export function nudge(mark: Mark, key: string, fine: boolean): boolean {
  const view = viewRow(get())?.settings;
  if (!view || mark.kind === "aim" || (mark.kind === "opening" && !mark.opening)) return false;
  const [right, forward] = mark.opening ? alongPlane(mark.opening.inward, view) : ground(view);
  const ways: Record<string, [Point, number]> = {
    ArrowRight: [right, 1],
    ArrowLeft: [right, -1],
    ArrowUp: [forward, 1],
    ArrowDown: [forward, -1],
    PageUp: [[0, 0, 1], 1],
    PageDown: [[0, 0, 1], -1],
  };
  const way = ways[key];
  if (!way) return false;
  const own = mark.opening && ownOpening(mark.opening, false);
  const from = own
    ? byHand().find((o) => o.name === own)?.position
    : mark.kind === "addition"
      ? additions().find((a) => a.id === mark.of)?.position
      : ofBuilding(mark)
        ? placedAs(mark.kind, mark.of)?.by
        : fixture(mark.of)?.places[mark.place]?.position;
  if (!from) return false;
  const step = way[1] * (fine ? FINE_M : NUDGE_M);
  const position = from.map(
    (v, i) => Math.round((v + (way[0][i] ?? 0) * step) * 1e4) / 1e4,
  ) as Point;
  if (own) holdOpening(own, position);
  else if (mark.kind === "addition") holdAddition(mark.of, { position });
  else if (ofBuilding(mark)) holdPlaced(mark.kind, mark.of, { by: position });
  else holdPlace(mark, { position });
  settle(`Move ${mark.name}`);
  return true;
}

/** Turn a lamp about the way it shines, in degrees; it is saved when the ring is let go. */
export function turnBy(mark: Mark, degrees: number) {
  const before = fixture(mark.of)?.places[mark.place];
  if (!before) return;
  const roll_deg = Math.round((((before.roll_deg + degrees + 540) % 360) - 180) * 10) / 10;
  holdPlace(mark, { roll_deg });
}

export const turned = (mark: Mark) => release(`Turn ${mark.name}`);

export async function removeMark(mark: Mark) {
  if (mark.kind === "opening") {
    const known = byHand();
    const left = known.filter((o) => o.name !== mark.of);
    const edits =
      left.length < known.length
        ? { added_openings: left }
        : { openings: { [mark.of]: { on: false, turned: false, gain: 0 } } };
    await editModel(edits, `Remove ${mark.name}`);
    return;
  }
  if (ofBuilding(mark)) {
    const p = placedAs(mark.kind, mark.of);
    if (p) await putBack(p);
    return;
  }
  if (mark.kind === "addition") {
    const left = additions().filter((a) => a.id !== mark.of);
    await editModel({ additions: left }, `Remove ${mark.name}`);
    return;
  }
  const f = fixture(mark.of);
  if (mark.kind !== "lamp" || !f || f.places.length < 2) return;
  const places = f.places.filter((_, i) => i !== mark.place);
  await edit("source", mark.of, { settings: { places } }, `Remove a copy of ${mark.name}`);
}
