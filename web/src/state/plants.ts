// Plants around the building: what a hand with a brush does, in the picture and on the plan.

import { create } from "zustand";
import type { ModelEdits, PlantKind, Planting, Soil, Stroke } from "../api/types";
import { ask } from "./asking";
import { editModel } from "./edits";
import { get, set, useStudio } from "./store";

type Point = [number, number, number];
export type Tool = Stroke["kind"];
/** Where the hand is: a point of the picture, or a place of the plan. */
export type At = { x: number; y: number } | { place: Point };

interface Hand {
  /** The plant in the hand. */
  kind: PlantKind | null;
  /** The planting that strokes go to; none: the next one begins a new one. */
  planting: string | null;
  tool: Tool;
  radius_m: number;
  /** The reach of the brush in the picture, and what lies under it. */
  under: Soil | null;
  /** The stroke being drawn: what lay under the hand, one after another. */
  stroke: Soil[] | null;
}

export const usePlants = create<Hand>(() => ({
  kind: null,
  planting: null,
  tool: "brush",
  radius_m: 1,
  under: null,
  stroke: null,
}));

const NONE: ModelEdits["plantings"] = {};
export const usePlantings = () =>
  useStudio((s) => s.project?.models[0]?.settings.edits.plantings ?? NONE);
const plantings = () => get().project?.models[0]?.settings.edits.plantings ?? NONE;

const inHand = () => set({ picking: "plant", placing: null });

/** Take a plant from the shelf. */
export function takePlant(kind: PlantKind) {
  usePlants.setState({ kind, planting: null, tool: kind.by, radius_m: kind.brush_m, stroke: null });
  inHand();
}

/** Go on with a planting. */
export function goOnWith(id: string, kind: PlantKind | undefined, tool: Tool) {
  usePlants.setState((s) => ({
    kind: kind ?? s.kind,
    planting: id,
    tool,
    radius_m: s.planting === id ? s.radius_m : (kind?.brush_m ?? s.radius_m),
    stroke: null,
  }));
  inHand();
}

let asking: Promise<void> | null = null;
let next: At | null = null;

/** What lies under the hand is asked one place after another; only the latest of what comes meanwhile counts. */
function feel(at: At): Promise<void> {
  next = at;
  asking ??= asked().finally(() => (asking = null));
  return asking;
}

async function asked() {
  try {
    while (next) {
      const { radius_m, stroke } = usePlants.getState();
      const here: At = next;
      next = null;
      const place = "place" in here ? here.place : null;
      const { x, y } = "place" in here ? { x: 0.5, y: 0.5 } : here;
      const under = await ask("soil", { x, y, place, radius_m });
      usePlants.setState({ under });
      // What was asked before the hand was laid down is not of its stroke.
      if (stroke) extend(under);
    }
  } catch {
    // The connection tells of itself.
  }
}

/** Shares of the brush's reach between points of a stroke. */
const SPACING = 0.35;

function extend(soil: Soil) {
  const { stroke, radius_m, tool } = usePlants.getState();
  if (!stroke || !soil.position) return;
  const last = stroke.at(-1)?.position;
  if (tool === "one" && last) return;
  if (last && Math.hypot(...last.map((v, i) => v - (soil.position?.[i] ?? 0))) < radius_m * SPACING)
    return;
  usePlants.setState({ stroke: [...stroke, soil] });
}

export const hover = (at: At) => void feel(at);

export function beginStroke(at: At) {
  usePlants.setState({ stroke: [] });
  void feel(at);
}

/** The hand lets go: the stroke is planted. */
export async function endStroke(at: At) {
  await feel(at);
  const { stroke, tool, radius_m } = usePlants.getState();
  usePlants.setState({ stroke: null });
  if (!stroke) return;
  const points = stroke.flatMap((s) => (s.position ? [s.position] : []));
  const first = stroke[0];
  if (!first || points.length === 0) {
    set({ problem: "There is no ground at this point; begin on a surface." });
    return;
  }
  const normal: Point = first.normal ?? [0, 0, 1];
  await lay({ kind: tool, points, radius_m, on: tool === "brush" ? first.part : "", normal });
}

export function giveUpStroke() {
  usePlants.setState({ stroke: null, under: null });
}

const LABELS: Record<Tool, string> = {
  brush: "Plant",
  erase: "Erase",
  row: "Plant a row of",
  one: "Set",
};

/** One more stroke of the planting in the hand, which begins with it if there is none. */
async function lay(stroke: Stroke) {
  const { kind, planting } = usePlants.getState();
  const old = planting ? plantings()[planting] : undefined;
  if (planting && old) {
    const last = Math.max(0, ...Object.keys(old.strokes).map(Number));
    const key = String(last + 1).padStart(4, "0");
    await patchPlanting(
      planting,
      { strokes: { [key]: stroke } },
      `${LABELS[stroke.kind]} ${old.name}`,
    );
    return;
  }
  if (!kind) return;
  if (stroke.kind === "erase") {
    set({ problem: "Choose a planting in the list first: what is erased is a part of it." });
    return;
  }
  await beginPlanting(kind, named(kind.label), stroke);
}

async function beginPlanting(kind: PlantKind, name: string, stroke: Stroke) {
  const { id: plant, per_m2, apart_m, keep_off_m, turn_spread, size_spread, slope } = kind;
  const id = Math.random().toString(36).slice(2, 10);
  const made: Partial<Planting> = {
    name,
    plant,
    per_m2,
    apart_m,
    keep_off_m,
    turn_spread,
    size_spread,
    slope,
    seed: 1 + Object.keys(plantings()).length,
    strokes: { "0001": stroke },
  };
  usePlants.setState({ planting: id });
  await patchPlanting(id, made, `${LABELS[stroke.kind]} ${name}`);
}

function named(label: string) {
  const taken = new Set(Object.values(plantings()).map((p) => p.name));
  let name = label;
  for (let n = 2; taken.has(name); n++) name = `${label} ${n}`;
  return name;
}

export const patchPlanting = (id: string, patch: Partial<Planting> | null, label: string) =>
  editModel({ plantings: { [id]: patch } } as unknown as Partial<ModelEdits>, label);

/** Plants behind the camera that the panes of this view mirror. */
export async function reflectIn(kind: PlantKind) {
  const { problem, positions } = await ask("mirrored", { plant: kind.id, apart_m: kind.apart_m });
  if (problem || positions.length === 0) {
    set({ problem: problem ?? "" });
    return;
  }
  set({ picking: null });
  await beginPlanting(kind, named(`${kind.label} in the panes`), {
    kind: "one",
    points: positions,
    radius_m: kind.brush_m,
    on: "",
    normal: [0, 0, 1],
  });
}
