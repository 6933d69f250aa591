// The project of the page: opened, kept, fetched again.

import { answer, api } from "../api/client";
import type { Project } from "../api/types";
import { byId } from "./look";
import { change } from "./queries";
import { fetchVocabulary } from "./vocabulary";
import { get, set } from "./store";

/**
 * The stills as they were last told over the socket. While it is open, nothing else is believed of them: the answer to
 * a question asked before may come after what was told later, and after a still's last word there is none.
 */
let told: { project: string; stills: Project["stills"] } | null = null;

/** Show a project as the server tells it; look and view stay where they can. */
export function accept(project: Project) {
  set((s) => ({
    project: told?.project === project.id ? { ...project, stills: told.stills } : project,
    lookId: byId(project.looks, s.lookId)?.id ?? "",
    viewId: byId(project.views, s.viewId)?.id ?? "",
  }));
}

/** Take over what an edit made of a project, if it is still the one that is shown. */
export function update(project: Project | null) {
  if (project && project.id === get().project?.id) accept(project);
}

const fetchProject = (id: string) =>
  answer(api.GET("/api/projects/{project}", { params: { path: { project: id } } }));

export async function openProject(id: string) {
  const project = await change(() => fetchProject(id));
  if (project) showProject(project);
}

/** Put a project into the page. */
function showProject(project: Project) {
  set({
    contributions: {},
    held: null,
    frame: null,
    facts: null,
    selected: "sun",
    readings: [],
    split: null,
    mounted: null,
  });
  accept(project);
  localStorage.setItem("project", project.id);
  if (project.models.length === 0) set({ stage: "Site" });
}

export async function begin() {
  const wanted = localStorage.getItem("project");
  // The one of last time is fetched with the list, not after it; it may be gone by now.
  const last = wanted ? fetchProject(wanted).catch(() => null) : null;
  const [projects] = await Promise.all([
    change(() => answer(api.GET("/api/projects"))),
    fetchVocabulary(),
  ]);
  if (!projects) return;
  set({ projects });
  const there = await last;
  const first = projects.find((p) => p.id === wanted) ?? projects[0];
  if (there && there.id === first?.id) showProject(there);
  else if (first) await openProject(first.id);
  else set({ home: true });
}

export async function reload() {
  const { project } = get();
  if (project) update(await fetchProject(project.id));
}

/** How far the stills of a project are, while the rest of it stays as it is. */
export function stillsTold(project: string, stills: Project["stills"]) {
  const shown = get().project;
  if (shown?.id !== project) return;
  told = { project, stills };
  set({ project: { ...shown, stills } });
}

/** Nobody tells how far stills are any more; answers are believed again. */
export function stillsUntold() {
  told = null;
}
