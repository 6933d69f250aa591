// All projects: opened, made, renamed, copied, carried to another machine, removed and brought back.

import { answer, api, form } from "../api/client";
import type { Schemas } from "../api/types";
import { edit, get, importModel, openProject, say, set } from "./studio";

export type ProjectCard = Schemas["Card"];
export type Town = Schemas["Town"];

/** Ask for the projects again. */
export async function listProjects() {
  try {
    set({ projects: await answer(api.GET("/api/projects")) });
  } catch (error) {
    say(error);
  }
}

export function goHome() {
  set({ home: true, alone: false, mounted: null });
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
  try {
    const made = await answer(api.POST("/api/projects", { body: { name } }));
    await enter(made.id);
    if (town) {
      const { latitude_deg, longitude_deg, time_zone } = town;
      const place = { latitude_deg, longitude_deg, time_zone };
      await edit("project", made.id, place, `Move to ${town.name}`);
    }
    if (building) await importModel(building, "y");
  } catch (error) {
    say(error);
  }
}

export async function rename(card: ProjectCard, name: string) {
  const wanted = name.trim();
  if (!wanted || wanted === card.name) return;
  try {
    await answer(
      api.PATCH("/api/projects/{project}/rows/{kind}/{row}", {
        params: { path: { project: card.id, kind: "project", row: card.id } },
        body: { patch: { name: wanted }, label: `Rename to ${wanted}` },
      }),
    );
    if (get().project?.id === card.id) await openProject(card.id);
  } catch (error) {
    say(error);
  }
  await listProjects();
}

export async function duplicate(card: ProjectCard) {
  try {
    await answer(
      api.POST("/api/projects/{project}/copy", { params: { path: { project: card.id } } }),
    );
  } catch (error) {
    say(error);
  }
  await listProjects();
}

/** Remove a project; returns whether it is gone. It can be brought back until its space is freed. */
export async function remove(card: ProjectCard) {
  try {
    const path = { project: card.id };
    set({ projects: await answer(api.DELETE("/api/projects/{project}", { params: { path } })) });
    if (get().project?.id === card.id) set({ project: null, frame: null, contributions: {} });
    return true;
  } catch (error) {
    say(error);
    return false;
  }
}

export async function bringBack(card: ProjectCard) {
  try {
    const path = { project: card.id };
    const asked = api.POST("/api/projects/{project}/back", { params: { path } });
    set({ projects: await answer(asked) });
  } catch (error) {
    say(error);
  }
}

/** Open a project file that another machine wrote. */
export async function openFile(file: File) {
  set({ note: `Reading ${file.name} …`, problem: "" });
  try {
    const made = await answer(api.POST("/api/projects/file", form(file)));
    await listProjects();
    await enter(made.id);
  } catch (error) {
    say(error);
  } finally {
    set({ note: "" });
  }
}
