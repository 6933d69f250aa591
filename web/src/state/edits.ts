// Edits: they go out one after another, so that undo keeps their order, and wait for a server that does not answer.

import { answer, api, form, Unreachable } from "../api/client";
import type { Building, Landed, Look, ModelEdits, Project, Shape } from "../api/types";
import { update } from "./project";
import { change, queries } from "./queries";
import { get, set, useStudio } from "./store";
import type { Partially } from "./store/hand";

type Kind = "project" | "model" | "view" | "look" | "source" | "scene";

/** How long is waited before a server that does not answer is asked again, in ms. */
const ASK_AGAIN = 1000;

/** Edits that the server has not answered yet. */
const EDITS = ["edit"];
const unanswered = () => queries.isMutating({ mutationKey: EDITS });

window.addEventListener("beforeunload", (event) => {
  if (unanswered() > 0) event.preventDefault();
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

/** Change something of the project that is shown, after every edit before it; null where that was refused.
 * `of`: where in the answer the project is, as it is then. */
export async function inTurn(ask: (project: Project) => Promise<Project>): Promise<Project | null>;
export async function inTurn<T>(
  ask: (project: Project) => Promise<T>,
  of: (made: T) => Project,
): Promise<T | null>;
export async function inTurn<T>(
  ask: (project: Project) => Promise<T>,
  of: (made: T) => Project = (made) => made as unknown as Project,
): Promise<T | null> {
  // Whatever is shown when its turn comes: an edit belongs to the project it was made in.
  const { project } = get();
  if (!project) return null;
  const made = await change(
    async () => {
      const answered = await ask(project);
      update(of(answered));
      return answered;
    },
    { row: "edits", key: EDITS },
  );
  set((s) => ({ unsaved: s.unsaved && unanswered() > 0 }));
  return made;
}

/** Save an edit. */
export async function edit(kind: Kind, id: string, body: object, label: string, gesture?: string) {
  await inTurn((project) =>
    untilAnswered(() =>
      answer(
        api.PATCH("/api/projects/{project}/rows/{kind}/{row}", {
          params: { path: { project: project.id, kind, row: id } },
          body: { patch: { ...body }, label, gesture },
        }),
      ),
    ),
  );
}

/** Change what was edited of the building: parts, materials, additions, openings. */
export function editModel(edits: Partial<ModelEdits>, label: string, gesture?: string) {
  const model = get().project?.models[0];
  return model
    ? edit("model", model.id, { settings: { edits } }, label, gesture)
    : Promise.resolve();
}

export function editLook(settings: Partially<Look>, label: string, gesture?: string) {
  return edit("look", get().lookId, { settings }, label, gesture);
}

type RowKind = "view" | "look" | "source" | "scene";

/** A new row; its id, or nothing where it was refused. */
export async function addRow(kind: RowKind, name: string, settings: object) {
  const made = await inTurn(
    (project) =>
      answer(
        api.POST("/api/projects/{project}/rows/{kind}", {
          params: { path: { project: project.id, kind } },
          body: { name, settings: { ...settings } },
        }),
      ),
    (added) => added.project,
  );
  return made?.id ?? "";
}

/** A new fixture on the surface that was hit; where exactly it stands is the studio's matter. */
export async function placeFixture(shape: Shape, landed: Landed) {
  const { position, direction, roll_deg, sizes } = landed;
  if (!position || !direction) return;
  const { landing, luminaire } = get();
  const made = await inTurn(
    (project) =>
      answer(
        api.POST("/api/projects/{project}/fixtures", {
          params: { path: { project: project.id } },
          body: {
            shape,
            position,
            normal: direction,
            roll_deg,
            sizes,
            free: sizes !== null || landing.off_m > 0,
            photometry: shape === "photometric" ? luminaire : null,
          },
        }),
      ),
    (placed) => placed.project,
  );
  if (!made) return;
  const landedAt = landed.to ? { id: made.id, to: landed.to } : null;
  set({ selected: made.id, placing: null, stage: "Fixtures", landedAt });
}

export async function removeRow(kind: RowKind, id: string) {
  await inTurn((project) => {
    const path = { project: project.id, kind, row: id };
    return answer(api.DELETE("/api/projects/{project}/rows/{kind}/{row}", { params: { path } }));
  });
}

export async function stepBack(which: "undo" | "redo") {
  await inTurn(
    (project) => {
      const params = { path: { project: project.id } };
      return answer(
        which === "undo"
          ? api.POST("/api/projects/{project}/undo", { params })
          : api.POST("/api/projects/{project}/redo", { params }),
      );
    },
    (stepped) => stepped.project,
  );
}

/** Read a building into the project; of a zip with several the page asks which is ``wanted``. */
export async function importModel(file: File, up: Building["up"], wanted = "") {
  const { project } = get();
  if (!project) return;
  const giveUp = new AbortController();
  set({ note: `Reading ${file.name} …`, stop: () => giveUp.abort(), problem: "" });
  const found = await change(
    () =>
      answer(
        api.POST("/api/projects/{project}/import", {
          params: { path: { project: project.id }, query: { up, wanted } },
          ...form(file),
          signal: giveUp.signal,
        }),
      ),
    { quiet: () => giveUp.signal.aborted },
  );
  if (found?.choose.length) set({ inZip: { file, up, models: found.choose } });
  else if (found) update(found.project);
  set({ note: "", stop: null });
}

/** What is said while the server does not answer; nothing otherwise. */
export const useGone = () =>
  useStudio((s) =>
    s.unsaved
      ? "The server does not answer. Your change is kept, and saved when it is back."
      : s.away && "The server does not answer. Waiting for it …",
  );
