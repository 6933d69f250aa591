// Flying: the hand turns the camera and walks it through the building; the picture follows.

import { hold, newGesture, release } from "./held";
import { merge } from "./merge";
import { viewRow } from "./look";
import { get, set } from "./store";

type Point = [number, number, number];

/** How long after the last step the new place is kept, in ms. */
const SETTLE = 350;
let waiting = 0;
/** One walk, from beginning to end, is one step of undo, however often the hand rests. */
let gesture = "";

function camera() {
  const row = viewRow(get());
  if (!row) return null;
  const view = merge(row.settings, get().held?.view ?? {});
  const p = view.position as Point;
  const t = view.target as Point;
  const way: Point = [t[0] - p[0], t[1] - p[1], t[2] - p[2]];
  return { p, way, distance: Math.hypot(...way), lens: view.focal_length_mm };
}

const round = (v: Point) => v.map((x) => Math.round(x * 1000) / 1000) as Point;

function move(position: Point, way: Point) {
  const target: Point = [position[0] + way[0], position[1] + way[1], position[2] + way[2]];
  hold({ view: { position: round(position), target: round(target) } }, true);
}

/** Keep the place once the hand has rested. */
export function settleSoon() {
  window.clearTimeout(waiting);
  waiting = window.setTimeout(settleNow, SETTLE);
}

export function settleNow() {
  window.clearTimeout(waiting);
  if (get().held?.view) void release(`Move ${viewRow(get())?.name ?? "the view"}`, gesture);
}

export function setFlying(flying: boolean) {
  settleNow();
  gesture = newGesture();
  set({ flying });
}

/** Turn the camera by shares of the picture's width and height. */
export function look(across: number, down: number) {
  const c = camera();
  if (!c) return;
  const wide = 2 * Math.atan(18 / c.lens);
  const turn = Math.atan2(c.way[1], c.way[0]) + across * wide;
  const flat = Math.hypot(c.way[0], c.way[1]);
  const tilt = Math.min(Math.max(Math.atan2(c.way[2], flat) + down * wide, -1.4), 1.4);
  const reach = Math.cos(tilt) * c.distance;
  move(c.p, [reach * Math.cos(turn), reach * Math.sin(turn), Math.sin(tilt) * c.distance]);
}

/** Walk in metres: forward, to the right, up. Eye height stays unless one goes up. */
export function walk(forward: number, right: number, up: number) {
  const c = camera();
  if (!c) return;
  const flat = Math.hypot(c.way[0], c.way[1]) || 1;
  const [x, y] = [c.way[0] / flat, c.way[1] / flat];
  move([c.p[0] + x * forward + y * right, c.p[1] + y * forward - x * right, c.p[2] + up], c.way);
}

/** Steps in metres of the keys one walks with. */
const STEPS: Record<string, Point> = {
  ArrowUp: [0.15, 0, 0],
  ArrowDown: [-0.15, 0, 0],
  ArrowLeft: [0, -0.15, 0],
  ArrowRight: [0, 0.15, 0],
  PageUp: [0, 0, 0.1],
  PageDown: [0, 0, -0.1],
};

/** Walk by a key; returns whether it was one to walk with. */
export function walkBy(key: string, coarse: boolean) {
  const step = STEPS[key];
  if (!step) return false;
  const k = coarse ? 5 : 1;
  walk(step[0] * k, step[1] * k, step[2] * k);
  settleSoon();
  return true;
}
