// The state of the page: the project as the server knows it, what the hand holds, and the picture.

import { useMemo } from "react";
import { create } from "zustand";
import { answer, api, form, Refusal, Unreachable } from "../api/client";
import type {
  Addition,
  Building,
  Facts,
  FrameHead,
  Landed,
  Look,
  Mix,
  ModelEdits,
  Project,
  Reading,
  Schemas,
  Shape,
  View,
} from "../api/types";

export type Stage = "Site" | "View" | "Daylight" | "Fixtures" | "Balance" | "Finish" | "Handover";
export const STAGES: Stage[] = [
  "Site",
  "View",
  "Daylight",
  "Fixtures",
  "Balance",
  "Finish",
  "Handover",
];

/** Stages whose work is done on the drawing sheet: it lies open in them. */
const ON_THE_SHEET: Stage[] = ["Site", "View", "Daylight", "Fixtures"];

/** What a click in the picture sets, beside fixtures, readings and the sun. */
export type Picking =
  | "focus"
  | "neutral"
  | "metered area"
  | "part"
  | "grade part"
  | "grade material"
  | "opening"
  | "region"
  | "aim"
  | `add ${Addition["kind"]}`;

type Partially<T> = { [K in keyof T]?: T[K] extends object ? Partially<T[K]> : T[K] };

/** What a drag is changing, laid over the saved project until it is let go. */
export interface Held {
  look?: Partially<Look>;
  view?: Partially<View>;
  sources?: Record<string, Record<string, unknown>>;
  model?: { edits: Partial<ModelEdits> };
}

export interface Contribution {
  url: string;
  burnt: number;
  colour: string;
  /** Stops the source may rise before it burns; null for one that adds nothing. */
  headroom: number | null;
  /** Stops that bring it just below burning. */
  just_below: number | null;
  /** It burns out more of the picture than the lamp itself. */
  burns: boolean;
  /** Part of the light of the picture; null before its first light. */
  share: number | null;
  /** Stops by which the print is brighter than the picture; null for one exposed like it. */
  lifted_ev: number | null;
  /** Some of its light was in this picture once; `of` says which one. A few samples more or less do not move its card. */
  lit: boolean;
  of: string;
}

interface State {
  project: Project | null;
  projects: Schemas["Card"][];
  /** The page of all projects is shown. */
  home: boolean;
  lookId: string;
  viewId: string;
  stage: Stage;
  theme: "day" | "night";
  selected: string;
  placing: Shape | null;
  /** How a lamp lands: so far off the surface that is clicked, and drawn to what is near. */
  landing: { off_m: number; snap: boolean };
  /** What drew the fixture that landed last. */
  landedAt: { id: string; to: string } | null;
  /** Photometric file chosen on the shelf. */
  luminaire: string | null;
  metering: boolean;
  readings: Reading[];
  /** What the meter reads under the cursor. */
  under: Reading | null;
  held: Held | null;
  moving: boolean;
  paused: boolean;
  /** How the picture is read: as it is, burnt and black striped, luminance in false colour. */
  reading: "plain" | "raw" | "burnt" | "luminance" | "gamut" | "noise";
  /** Only this source, while a key is held. */
  find: string | null;
  /** What the next click in the picture sets. */
  picking: Picking | null;
  /** A hand on the picture moves the camera. */
  flying: boolean;
  sheet: "sun" | "plan" | "section";
  /** A line of the plan to cut along: a place on it, and where one looks, in degrees from east. */
  sectionLine: { x: number; y: number; looking: number } | null;
  drawingLine: boolean;
  /** Part and material that were picked in the picture. */
  found: { part: string | null; material: string | null } | null;
  /** A place of the picture that a finding is about: left, top, right, bottom, 0…1. */
  framed: [number, number, number, number] | null;
  /** Outlines of the openings lie over the picture. */
  openingsShown: boolean;
  /** Each print of the strip is exposed for itself, not like the picture. */
  printsByThemselves: boolean;
  /** What is refined before the rest: left, top, right, bottom, 0…1. */
  region: [number, number, number, number] | null;
  /** The light as it was traced, while a key is held. */
  plain: boolean;
  frame: FrameHead | null;
  /** The picture this view had when it was last looked at: it stands until a better one is there. */
  last: { of: string; url: string; project: Project } | null;
  facts: Facts | null;
  contributions: Record<string, Contribution>;
  note: string;
  /** A change waits for a server that does not answer. */
  unsaved: boolean;
  /** The picture's connection is lost. */
  away: boolean;
  /** What ends the work that the note tells of, if it can be ended. */
  stop: (() => void) | null;
  /** A zip that holds several buildings, of which one is to be chosen. */
  inZip: { file: File; up: Building["up"]; models: Schemas["InZip"][] } | null;
  problem: string;
  /** The picture could not be computed: what is said of it. The last good one stays. */
  failure: { text: string; again_s: number } | null;
  /** How this page's picture is called at the server. */
  session: string;
  keysShown: boolean;
  /** The list of commands is open. */
  commandsShown: boolean;
  /** The picture as large as the window, without anything beside it. */
  alone: boolean;
  /** The sheet of pictures that lies in the mount, by its id; the proofs by name. */
  mounted: string | null;
  /** Whether the drawing sheet lies open in the side column, where that was said by hand. */
  sheetOpen: Partial<Record<Stage, boolean>>;
}

export const useStudio = create<State>(() => ({
  project: null,
  projects: [],
  home: false,
  lookId: "",
  viewId: "",
  stage: "Daylight",
  theme: localStorage.getItem("theme") === "night" ? "night" : "day",
  selected: "sun",
  placing: null,
  landing: { off_m: 0, snap: true },
  landedAt: null,
  luminaire: null,
  metering: false,
  readings: [],
  under: null,
  held: null,
  moving: false,
  paused: false,
  plain: false,
  reading: "plain",
  find: null,
  picking: null,
  flying: false,
  sheet: "sun",
  sectionLine: null,
  drawingLine: false,
  found: null,
  framed: null,
  openingsShown: false,
  printsByThemselves: false,
  region: null,
  frame: null,
  last: null,
  facts: null,
  contributions: {},
  note: "",
  unsaved: false,
  away: false,
  stop: null,
  inZip: null,
  problem: "",
  failure: null,
  session: "",
  keysShown: false,
  commandsShown: false,
  alone: false,
  mounted: null,
  sheetOpen: {},
}));

export const set = useStudio.setState;
export const get = useStudio.getState;

/** Whether the drawing sheet lies open in this stage. */
export const sheetOpen = (s: State) => s.sheetOpen[s.stage] ?? ON_THE_SHEET.includes(s.stage);

export function merge<T>(old: T, over: unknown): T {
  if (
    old === null ||
    over === null ||
    typeof old !== "object" ||
    typeof over !== "object" ||
    Array.isArray(over)
  )
    return over as T;
  const out: Record<string, unknown> = { ...(old as Record<string, unknown>) };
  for (const [key, value] of Object.entries(over as Record<string, unknown>))
    out[key] = key in out ? merge(out[key], value) : value;
  return out as T;
}

const byId = <T extends { id: string }>(rows: T[], id: string) =>
  rows.find((row) => row.id === id) ?? rows[0];

export function lookRow(s: State) {
  return s.project ? byId(s.project.looks, s.lookId) : undefined;
}

export function viewRow(s: State) {
  return s.project ? byId(s.project.views, s.viewId) : undefined;
}

/** The look as it is shown: saved settings with what the hand holds. */
export function useLook(): Look | undefined {
  const row = useStudio(lookRow);
  const held = useStudio((s) => s.held?.look);
  return row && (held ? merge(row.settings, held) : row.settings);
}

/** One part of the look as it is shown; changes only when that part does. */
export function useLookPart<K extends keyof Look>(key: K): Look[K] | undefined {
  const saved = useStudio((s) => lookRow(s)?.settings[key]);
  const held = useStudio((s) => s.held?.look?.[key]);
  return useMemo(
    () => (saved === undefined || held === undefined ? saved : merge(saved, held)),
    [saved, held],
  );
}

export function useView(): View | undefined {
  const row = useStudio(viewRow);
  const held = useStudio((s) => s.held?.view);
  return row && (held ? merge(row.settings, held) : row.settings);
}

export const NO_MIX: Mix = { level: 0, muted: false, solo: false };

const SKY_NAMES = { clear: "Clear sky", cie: "CIE sky", graded: "Sky by hand", hdri: "" };

/** Under which key of the mix a group of sources is kept. */
export const groupKey = (group: string) => `group: ${group}`;

/** Every source of the project in strip order: sun, sky, then fixtures and glowing materials. */
export function sourceList(project: Project, look: Pick<Look, "mix" | "sky">) {
  const all = [
    { id: "sun", name: "Sun", kind: "sun" },
    {
      id: "sky",
      name: SKY_NAMES[look.sky.model] || look.sky.hdri.name || "Sky picture",
      kind: "sky",
    },
    ...(look.sky.moon ? [{ id: "moon", name: "Moon", kind: "sun" }] : []),
    ...project.sources.map((s) => ({
      id: s.id,
      name: s.name,
      kind: s.settings.kind as string,
      group: s.settings.group,
    })),
  ].map((s) => {
    const group = "group" in s ? s.group : "";
    const whole = { ...NO_MIX, ...(group ? look.mix[groupKey(group)] : undefined) };
    const mix = { ...NO_MIX, ...look.mix[s.id] };
    return { ...s, group, mix, solo: mix.solo || whole.solo, muted: mix.muted || whole.muted };
  });
  const solo = all.some((s) => s.solo);
  return all.map((s) => ({ ...s, silent: solo ? !s.solo : s.muted }));
}

export type SourceLine = ReturnType<typeof sourceList>[number];

export function say(error: unknown) {
  set({ problem: error instanceof Refusal ? error.message : String(error) });
}

export function accept(project: Project) {
  set((s) => ({
    project,
    lookId: byId(project.looks, s.lookId)?.id ?? "",
    viewId: byId(project.views, s.viewId)?.id ?? "",
  }));
}

const fetchProject = (id: string) =>
  answer(api.GET("/api/projects/{project}", { params: { path: { project: id } } }));

export async function openProject(id: string) {
  try {
    const project = await fetchProject(id);
    set({
      contributions: {},
      held: null,
      frame: null,
      facts: null,
      selected: "sun",
      readings: [],
      mounted: null,
    });
    accept(project);
    localStorage.setItem("project", id);
    if (project.models.length === 0) set({ stage: "Site" });
  } catch (error) {
    say(error);
  }
}

export async function begin() {
  try {
    const projects = await answer(api.GET("/api/projects"));
    set({ projects });
    const wanted = localStorage.getItem("project");
    const first = projects.find((p) => p.id === wanted) ?? projects[0];
    if (first) await openProject(first.id);
    else set({ home: true });
  } catch (error) {
    say(error);
  }
}

export async function reload() {
  const { project } = get();
  if (project) accept(await fetchProject(project.id));
}

/** Ask how far the stills are, while the rest of the project stays as it is. */
export async function reloadStills() {
  const { project } = get();
  if (!project) return;
  const of = { params: { path: { project: project.id } } };
  const stills = await answer(api.GET("/api/projects/{project}/stills", of));
  set((s) => (s.project?.id === project.id ? { project: { ...s.project, stills } } : {}));
}

type Kind = "project" | "model" | "view" | "look" | "source";

let waiting: Promise<void> = Promise.resolve();

/** How long is waited before a server that does not answer is asked again, in ms. */
const ASK_AGAIN = 1000;

/** How many edits the server has not answered yet. */
let unanswered = 0;

window.addEventListener("beforeunload", (event) => {
  if (unanswered > 0) event.preventDefault();
});

/** Ask until the server answers; meanwhile it is said that nothing is lost. */
async function untilAnswered<T>(ask: () => Promise<T>): Promise<T> {
  for (;;) {
    try {
      return await ask();
    } catch (error) {
      if (!(error instanceof Unreachable)) throw error;
      set({ unsaved: true });
      await new Promise((goOn) => setTimeout(goOn, ASK_AGAIN));
    }
  }
}

/** Save an edit. Edits go out one after another, so that undo keeps their order. */
export function edit(kind: Kind, id: string, body: object, label: string, gesture?: string) {
  unanswered++;
  waiting = waiting.then(async () => {
    try {
      const { project } = get();
      if (!project) return;
      const path = { project: project.id, kind, row: id };
      const saved = await untilAnswered(() =>
        answer(
          api.PATCH("/api/projects/{project}/rows/{kind}/{row}", {
            params: { path },
            body: { patch: { ...body }, label, gesture },
          }),
        ),
      );
      accept(saved);
    } catch (error) {
      say(error);
    } finally {
      unanswered--;
      set((s) => ({ unsaved: s.unsaved && unanswered > 0 }));
    }
  });
  return waiting;
}

/** Look from another view; readings belong to the picture they were taken in. */
export function showView(viewId: string) {
  set({ viewId, held: null, readings: [], framed: null });
}

/** Change what was edited of the building: parts, materials, additions, openings. */
export function editModel(edits: Partial<ModelEdits>, label: string, gesture?: string) {
  const model = get().project?.models[0];
  return model
    ? edit("model", model.id, { settings: { edits } }, label, gesture)
    : Promise.resolve();
}

/** What is said while the server does not answer; nothing otherwise. */
export const useGone = () =>
  useStudio((s) =>
    s.unsaved
      ? "The server does not answer. Your change is kept, and saved when it is back."
      : s.away && "The server does not answer. Waiting for it …",
  );

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

export function editLook(settings: Partially<Look>, label: string, gesture?: string) {
  return edit("look", get().lookId, { settings }, label, gesture);
}

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

export async function addRow(kind: "view" | "look" | "source", name: string, settings: object) {
  const { project } = get();
  if (!project) return "";
  try {
    const made = await answer(
      api.POST("/api/projects/{project}/rows/{kind}", {
        params: { path: { project: project.id, kind } },
        body: { name, settings: { ...settings } },
      }),
    );
    accept(made.project);
    return made.id;
  } catch (error) {
    say(error);
    return "";
  }
}

/** A new fixture on the surface that was hit; where exactly it stands is the studio's matter. */
export async function placeFixture(shape: Shape, landed: Landed) {
  const { project, landing } = get();
  if (!project || !landed.position || !landed.direction) return;
  try {
    const made = await answer(
      api.POST("/api/projects/{project}/fixtures", {
        params: { path: { project: project.id } },
        body: {
          shape,
          position: landed.position,
          normal: landed.direction,
          roll_deg: landed.roll_deg,
          sizes: landed.sizes,
          free: landed.sizes !== null || landing.off_m > 0,
          photometry: shape === "photometric" ? get().luminaire : null,
        },
      }),
    );
    accept(made.project);
    const landedAt = landed.to ? { id: made.id, to: landed.to } : null;
    set({ selected: made.id, placing: null, stage: "Fixtures", landedAt });
  } catch (error) {
    say(error);
  }
}

export async function removeRow(kind: "view" | "look" | "source", id: string) {
  const { project } = get();
  if (!project) return;
  try {
    const path = { project: project.id, kind, row: id };
    accept(
      await answer(api.DELETE("/api/projects/{project}/rows/{kind}/{row}", { params: { path } })),
    );
  } catch (error) {
    say(error);
  }
}

export async function stepBack(which: "undo" | "redo") {
  const { project } = get();
  if (!project) return;
  try {
    await waiting;
    const params = { path: { project: project.id } };
    const asked =
      which === "undo"
        ? api.POST("/api/projects/{project}/undo", { params })
        : api.POST("/api/projects/{project}/redo", { params });
    accept((await answer(asked)).project);
  } catch (error) {
    say(error);
  }
}

/** Read a building into the project; of a zip with several the page asks which is ``wanted``. */
export async function importModel(file: File, up: Building["up"], wanted = "") {
  const { project } = get();
  if (!project) return;
  const giveUp = new AbortController();
  set({ note: `Reading ${file.name} …`, stop: () => giveUp.abort(), problem: "" });
  try {
    const asked = api.POST("/api/projects/{project}/import", {
      params: { path: { project: project.id }, query: { up, wanted } },
      ...form(file),
      signal: giveUp.signal,
    });
    const found = await answer(asked);
    if (found.choose.length > 0) set({ inZip: { file, up, models: found.choose } });
    else accept(found.project);
  } catch (error) {
    if (!giveUp.signal.aborted) say(error);
  } finally {
    set({ note: "", stop: null });
  }
}
