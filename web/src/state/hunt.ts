// Hunting for light: the pattern map on the chart, and aiming the sun by two clicks.

import { create } from "zustand";
import type { Aim, Painted, Pattern } from "../api/types";
import { askAim, askPattern } from "./asking";
import { get as studio, set as setStudio } from "./store";
import { vocabulary } from "./vocabulary";

export type Score = Exclude<keyof Pattern, "azimuth_deg" | "elevation_deg" | "real">;

interface Hunt {
  /** Which score lies over the chart; none when null. */
  score: Score | null;
  realOnly: boolean;
  map: Pattern | null;
  step: number;
  busy: boolean;
  /** The next click in the picture: the patch, or the opening the light comes through. */
  aiming: "patch" | "opening" | null;
  anyWay: boolean;
  patch: [number, number] | null;
  /** The patch lies under this place, clicked on the plan, in metres. */
  below: [number, number, number] | null;
  aim: Aim | null;
  /** Where in the picture light is wanted, and where none is. */
  strokes: Painted[];
  /** The brush in the hand: paints light that is wanted, or none; null for no brush. */
  brush: { wanted: boolean; radius: number } | null;
  /** The stroke being painted. */
  stroke: [number, number][] | null;
}

export const useHunt = create<Hunt>(() => ({
  score: null,
  realOnly: true,
  map: null,
  step: 10,
  busy: false,
  aiming: null,
  anyWay: false,
  patch: null,
  below: null,
  aim: null,
  strokes: [],
  brush: null,
  stroke: null,
}));

export const set = useHunt.setState;
export const get = useHunt.getState;

/** Degrees between positions: a first map at once, then finer ones. */
const STEPS = [10, 5, 3];
let round = 0;

/** Score the sky anew for the present view; a newer wish ends an older one. */
export async function hunt() {
  const mine = ++round;
  const picked = studio()
    .readings.slice(0, 2)
    .map((r) => [r.x, r.y] as [number, number]);
  set({ busy: true });
  for (const step of STEPS) {
    const { map } = await askPattern(step, picked, get().strokes);
    if (mine !== round || get().score === null) return;
    set({ map, step });
  }
  set({ busy: false });
}

export function stopHunting() {
  round++;
  set({ score: null, map: null, busy: false, brush: null, stroke: null });
}

/** Take up the brush, or lay it down if it is in the hand. */
export function takeBrush(wanted: boolean) {
  setStudio({ picking: null, placing: null, metering: false });
  const { brush } = get();
  const same = brush?.wanted === wanted;
  set({ brush: same ? null : { wanted, radius: brush?.radius ?? usualReach() }, stroke: null });
}

/** The usual reach of the brush, as a share of the width of the picture. */
const usualReach = () => vocabulary().numbers.brush?.radius?.normal ?? 0.06;
/** Strokes that are kept, and points of one. */
const MOST_STROKES = 100;
const MOST_POINTS = 400;

export function paintTo(x: number, y: number) {
  const { stroke, brush } = get();
  if (!stroke || !brush) return;
  const last = stroke.at(-1);
  const far = !last || Math.hypot(x - last[0], y - last[1]) > brush.radius * 0.25;
  if (!far || stroke.length >= MOST_POINTS) return;
  const within = (v: number) => Math.min(Math.max(v, 0), 1);
  set({ stroke: [...stroke, [within(x), within(y)]] });
}

export function endPainting() {
  const { stroke, brush, strokes } = get();
  set({ stroke: null });
  if (!stroke?.length || !brush) return;
  const made = { points: stroke, radius: brush.radius, wanted: brush.wanted };
  set({ strokes: [...strokes, made].slice(-MOST_STROKES) });
}

export function beginAim(anyWay: boolean) {
  setStudio({ placing: null, metering: false, problem: "" });
  set({ aiming: "patch", anyWay, aim: null, patch: null, below: null });
}

/** A click in the picture while aiming. */
export async function aimClick(x: number, y: number) {
  const { aiming, anyWay, patch, below } = get();
  if (aiming === "patch" && !anyWay) {
    set({ patch: [x, y], aiming: "opening" });
    return;
  }
  if (aiming === "opening") await solve(patch ?? [x, y], [x, y], below);
  else await solve([x, y], null, null);
}

/** A click on the plan while aiming: the patch lies on the floor below. */
export async function aimOnPlan(place: [number, number, number]) {
  if (get().aiming !== "patch") return;
  if (get().anyWay) await solve([0, 0], null, place);
  else set({ below: place, patch: null, aiming: "opening" });
}

async function solve(
  at: [number, number],
  through: [number, number] | null,
  below: [number, number, number] | null,
) {
  const found = await askAim(at[0], at[1], through, below);
  if (found.problem) {
    setStudio({ problem: found.problem });
    return;
  }
  set({ aiming: null, patch: below ? null : at, aim: found });
}
