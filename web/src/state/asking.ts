// Questions about the picture: asked over its socket, answered by number.

import type { Painted, Picked, Questions, Reading } from "../api/types";
import { Refusal } from "../api/client";

type Question = keyof Questions;
interface Waiting {
  resolve: (answer: unknown) => void;
  reject: (why: Refusal) => void;
  timer: ReturnType<typeof setTimeout>;
}

/** How long an answer is waited for, in ms: longer than the server does. */
const PATIENCE = 90_000;
const asks = new Map<number, Waiting>();
let questions = 0;
let wire: (message: object) => boolean = () => false;

/** By which way questions go out; it tells whether there is one at the moment. */
export function askBy(way: (message: object) => boolean) {
  wire = way;
}

/** Ask about the picture as it is now; a refusal carries words for the artist. */
export function ask<K extends Question>(
  what: K,
  of: Questions[K]["of"],
): Promise<Questions[K]["answer"]> {
  const id = ++questions;
  return new Promise((resolve, reject) => {
    const timer = setTimeout(
      () => settle(id)?.reject(new Refusal("No answer came; ask again.")),
      PATIENCE,
    );
    asks.set(id, { resolve: resolve as (answer: unknown) => void, reject, timer });
    if (!wire({ kind: "ask", id, what, of }))
      settle(id)?.reject(new Refusal("The server does not answer; ask again when it is back."));
  });
}

function settle(id: number) {
  const waiting = asks.get(id);
  if (waiting) clearTimeout(waiting.timer);
  asks.delete(id);
  return waiting;
}

/** An answer has come. */
export function answered(id: number, answer: unknown) {
  settle(id)?.resolve(answer);
}

/** A question cannot be answered. */
export function unanswered(id: number, text: string) {
  settle(id)?.reject(new Refusal(text));
}

/** The connection is gone, and with it every answer that was waited for. */
export function answersLost() {
  for (const id of [...asks.keys()])
    unanswered(id, "The connection was lost; ask again when it is back.");
}

/** Sun positions about `step` degrees apart, scored for this view and up to two picked points. */
export const askPattern = (step: number, picked: [number, number][], strokes: Painted[]) =>
  ask("pattern", { step_deg: step, picked, strokes });

/** The surface under a place of the plan, in metres. */
export const askUnder = (place: [number, number, number]) => ask("under", { place });

/** Where the sun must stand to light a point, through the opening at another or any way.
 * ``below``: the patch lies under a place in metres instead of at the point of the picture. */
export const askAim = (
  x: number,
  y: number,
  through: [number, number] | null,
  below: [number, number, number] | null = null,
) => ask("aim", { x, y, through, below });

/** White point that makes what is seen at a point neutral. */
export const askNeutral = (x: number, y: number) => ask("neutral", { x, y });

/** A starting point for the grade, worked out from the present picture. */
export const askStart = async (mood: "flat" | "natural" | "strong") => ask("start", { mood });

/** Points of a curve worked out from the picture. */
export const askCurve = async () => (await ask("curve", {})).points;

/** The openings that were found in the building. */
export const askOpenings = async () => (await ask("openings", {})).found;

/** Where a lamp lands that is put at a point of the picture. */
export const askLanding = (
  [x, y]: [number, number],
  shape: string,
  off_m: number,
  snap: boolean,
  on_plan: [number, number, number] | null = null,
) => ask("land", { x, y, shape, off_m, snap, on_plan });

/** Copies of a fixture that give its room an average illuminance. */
export const askSpread = (source: string, lux: number) => ask("spread", { source, lux });

/** By how much openings lessen the noise of the sky in this view, in equal time. */
export const askGain = () => ask("gain", {});

/** An opening between two opposite corners clicked in the picture. */
export const askOpening = (corners: [number, number][]) => ask("opening", { corners });

/** Emitters that stand so close to a surface that they speckle. */
export const askDoubts = async () => (await ask("doubts", {})).found;

/** Levels that bring places (x, y, stops from grey) to what is wished for. */
export const askBalance = (wishes: [number, number, number][]) => ask("balance", { wishes });

/** Seconds and passes a still of a width would take to a noise, or until none is seen. */
export const askEstimate = (width: number, noise: number | null) =>
  ask("estimate", { width_px: width, noise });

/** Which parts and materials are seen, how much of each, and where. */
export const askCovered = () => ask("covered", {});

/** Holes by which the sky is seen from the camera. */
export const askLeaks = () => ask("leaks", {});

/** The surface under a point of the picture, x and y in 0…1. */
export const pick = (x: number, y: number, kind: "pick" | "meter" = "pick"): Promise<Picked> =>
  ask(kind, { x, y });

/** The meter's reading at a point; null where there is no picture yet. */
export async function read(x: number, y: number): Promise<Reading | null> {
  const { luminance, log2_luminance, stops, shares, rgb, lux, kelvin, sun_over_sky } = await pick(
    x,
    y,
    "meter",
  );
  if (luminance === null || log2_luminance === null || stops === null || !shares || !rgb)
    return null;
  return { x, y, luminance, log2_luminance, stops, shares, rgb, lux, kelvin, sun_over_sky };
}
