// Plants around the building: what a hand with a brush does, in the picture and on the plan.

import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import type { ModelEdits, PlantKind, Planting, Soil, Stroke } from "../api/types";
import { ask } from "./asking";
import { editModel } from "./edits";
import { standing } from "./moved";
import { get, set, useStudio } from "./store";

type Point = [number, number, number];
export type Tool = Stroke["kind"];
/** Where the hand is: a point of the picture, or a place of the plan. */
export type At = { x: number; y: number } | { place: Point };

/** What a stroke was begun with, and what lay under the hand, one after another. */
interface Drawing {
  kind: PlantKind | null;
  planting: string | null;
  tool: Tool;
  radius_m: number;
  soils: Soil[];
}

interface Hand {
  /** The plant in the hand. */
  kind: PlantKind | null;
  /** The planting that strokes go to; none: the next one begins a new one. */
  planting: string | null;
  tool: Tool;
  radius_m: number;
  /** The reach of the brush in the picture, and what lies under it. */
  under: Soil | null;
  /** The stroke being drawn, as far as it is known; null for none. */
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

/** How many plants of each planting stand; a planting that was just drawn is counted once it is built. */
export function usePlantCounts(): Record<string, number> {
  const beds = usePlantings();
  const model = useStudio((s) => s.project?.models[0]?.settings);
  const there = useStudio((s) => s.frame !== null && !s.frame.empty);
  return (
    useQuery({
      queryKey: ["plant counts", JSON.stringify(beds), model && standing("", model)],
      queryFn: async () => {
        // The picture is told of an edit before it is asked about it.
        await new Promise((r) => setTimeout(r, TOLD_AFTER));
        return (await ask("planted", {})).counts;
      },
      enabled: there && Object.keys(beds).length > 0,
      staleTime: Infinity,
      placeholderData: (old) => old,
    }).data ?? {}
  );
}

/** Time by which the picture knows of an edit, in ms. */
const TOLD_AFTER = 400;

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

let asking = false;
let next: At | null = null;

async function soilAt(at: At): Promise<Soil | null> {
  const { radius_m } = usePlants.getState();
  const place = "place" in at ? at.place : null;
  const { x, y } = "place" in at ? { x: 0.5, y: 0.5 } : at;
  try {
    return await ask("soil", { x, y, place, radius_m });
  } catch {
    return null; // The connection tells of itself.
  }
}

/** The stroke of the hand that is down. */
let drawing: Drawing | null = null;

/** What lies under the hand is asked one place after another; only the latest of what comes meanwhile counts. */
export async function hover(at: At) {
  next = at;
  if (asking) return;
  asking = true;
  while (next) {
    const here: At = next;
    next = null;
    // What was asked before the hand was laid down is not of its stroke.
    const of = drawing;
    const under = await soilAt(here);
    usePlants.setState({ under });
    if (of && under) extend(of, under);
  }
  asking = false;
}

/** Shares of the brush's reach between points of a stroke. */
const SPACING = 0.35;

function extend(of: Drawing, soil: Soil) {
  if (!soil.position) return;
  const last = of.soils.at(-1)?.position;
  if (last) {
    const far = Math.hypot(...last.map((v, i) => v - (soil.position?.[i] ?? 0)));
    if (of.tool === "one" || far < of.radius_m * SPACING) return;
  }
  of.soils.push(soil);
  if (of === drawing) usePlants.setState({ stroke: [...of.soils] });
}

export function beginStroke(at: At) {
  const { kind, planting, tool, radius_m } = usePlants.getState();
  const of: Drawing = { kind, planting, tool, radius_m, soils: [] };
  drawing = of;
  usePlants.setState({ stroke: [] });
  // Where it began is never passed over: it says what the stroke grows on.
  void soilAt(at).then((soil) => soil && extend(of, soil));
}

/** Strokes are planted one after another, in the order in which they were drawn. */
let planted: Promise<unknown> = Promise.resolve();

/** The hand lets go: the stroke is planted. */
export async function endStroke(at: At) {
  const of = drawing;
  drawing = null;
  usePlants.setState({ stroke: null });
  if (!of) return;
  const last = await soilAt(at);
  if (last) extend(of, last);
  planted = planted.then(() => lay(of)).catch(() => undefined);
  await planted;
}

export function giveUpStroke() {
  drawing = null;
  usePlants.setState({ stroke: null, under: null });
}

const LABELS: Record<Tool, string> = {
  brush: "Plant",
  erase: "Erase",
  row: "Plant a row of",
  one: "Set",
};

/** One more stroke of the planting in the hand, which begins with it if there is none. */
async function lay(of: Drawing) {
  const [first] = of.soils;
  if (!first) {
    set({ problem: "There is no ground at this point; begin on a surface." });
    return;
  }
  const stroke: Stroke = {
    kind: of.tool,
    points: of.soils.flatMap((s) => (s.position ? [s.position] : [])),
    radius_m: of.radius_m,
    on: of.tool === "brush" ? first.part : "",
    normal: first.normal ?? [0, 0, 1],
  };
  // A stroke before this one may have begun its planting.
  const now = usePlants.getState();
  const planting = now.kind === of.kind ? now.planting : of.planting;
  const old = planting ? plantings()[planting] : undefined;
  if (planting && old) {
    const last = Math.max(0, ...Object.keys(old.strokes).map(Number));
    const key = String(last + 1).padStart(4, "0");
    const label = `${LABELS[stroke.kind]} ${old.name}`;
    await patchPlanting(planting, { strokes: { [key]: stroke } }, label);
    return;
  }
  if (!of.kind) return;
  if (stroke.kind === "erase") {
    set({ problem: "Choose a planting in the list first: what is erased is a part of it." });
    return;
  }
  const id = await beginPlanting(of.kind, named(of.kind.label), stroke);
  usePlants.setState((s) => (s.kind === of.kind ? { planting: id } : {}));
}

async function beginPlanting(kind: PlantKind, name: string, stroke: Stroke) {
  const { id: plant, per_m2, apart_m, keep_off_m, turn_spread, size_spread, slope } = kind;
  // Plantings are listed in the order of their ids: the newest comes last.
  const id = Date.now().toString(36) + Math.random().toString(36).slice(2, 5).padEnd(3, "0");
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
  await patchPlanting(id, made, `${LABELS[stroke.kind]} ${name}`);
  return id;
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
