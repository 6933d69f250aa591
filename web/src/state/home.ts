// All projects: opened, made, renamed, copied, carried to another machine, removed and brought back.

import { answer, api, form } from "../api/client";
import type { Schemas } from "../api/types";
import { edit, importModel } from "./edits";
import { openProject, update } from "./project";
import { change } from "./queries";
import { get, set } from "./store";

export type ProjectCard = Schemas["Card"];
export type Town = Schemas["Town"];

/** Ask for the projects again. */
export async function listProjects() {
  const projects = await change(() => answer(api.GET("/api/projects")));
  if (projects) set({ projects });
}

export function goHome() {
  // What the picture was busy with is not told while nobody looks at it.
  set((s) => ({ home: true, alone: false, mounted: null, note: s.stop ? s.note : "" }));
  void listProjects();
}

export async function enter(id: string) {
  await openProject(id);
  if (get().project?.id === id) set({ home: false });
}

export interface Wanted {
  name: string;
  town: Town | null;
  building: File | null;
}

/** A new project, at its place and with its building if these are known already. */
export async function begin({ name, town, building }: Wanted) {
  const made = await change(() => answer(api.POST("/api/projects", { body: { name } })));
  if (!made) return;
  await enter(made.id);
  if (town) {
    const { latitude_deg, longitude_deg, time_zone } = town;
    const place = { latitude_deg, longitude_deg, time_zone };
    await edit("project", made.id, place, `Move to ${town.name}`);
  }
  if (building) await importModel(building, "y");
}

export async function rename(card: ProjectCard, name: string) {
  const wanted = name.trim();
  if (!wanted || wanted === card.name) return;
  const renamed = await change(() =>
    answer(
      api.PATCH("/api/projects/{project}/rows/{kind}/{row}", {
        params: { path: { project: card.id, kind: "project", row: card.id } },
        body: { patch: { name: wanted }, label: `Rename to ${wanted}` },
      }),
    ),
  );
  update(renamed);
  await listProjects();
}

export async function duplicate(card: ProjectCard) {
  const params = { path: { project: card.id } };
  await change(() => answer(api.POST("/api/projects/{project}/copy", { params })));
  await listProjects();
}

/** Remove a project; returns whether it is gone. It can be brought back until its space is freed. */
export async function remove(card: ProjectCard) {
  const params = { path: { project: card.id } };
  const projects = await change(() => answer(api.DELETE("/api/projects/{project}", { params })));
  if (!projects) return false;
  set({ projects });
  if (get().project?.id === card.id) set({ project: null, frame: null, contributions: {} });
  return true;
}

export async function bringBack(card: ProjectCard) {
  const params = { path: { project: card.id } };
  const projects = await change(() => answer(api.POST("/api/projects/{project}/back", { params })));
  if (projects) set({ projects });
}

/** The name of the example that can be added. */
export const EXAMPLE = "Lantern Row";

/** Build the example and open it. */
export async function addExample() {
  set({ note: `Building ${EXAMPLE} …`, problem: "" });
  const made = await change(() => answer(api.POST("/api/projects/example")));
  if (made) {
    await listProjects();
    await enter(made.id);
  }
  set({ note: "" });
}

/** Open a project file that another machine wrote. */
export async function openFile(file: File) {
  set({ note: `Reading ${file.name} …`, problem: "" });
  const made = await change(() => answer(api.POST("/api/projects/file", form(file))));
  if (made) {
    await listProjects();
    await enter(made.id);
  }
  set({ note: "" });
}
