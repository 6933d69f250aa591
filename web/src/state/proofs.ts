// Proofs: kept pictures, and how one is laid over the present picture to compare.

import { stepDone } from "./firstSteps";
import { create } from "zustand";
import { answer, api } from "../api/client";
import type { Proof } from "../api/types";
import { inTurn } from "./edits";
import { change } from "./queries";
import { get as studio, set as setStudio } from "./store";

interface Proofs {
  list: Proof[];
  /** The proof that is compared with. */
  chosen: string | null;
  /** Wipe from the left, 0…1; null: not compared. */
  wipe: number | null;
  /** The proof stands beside the picture instead of over it. */
  beside: boolean;
  /** A key is held: the proof alone. */
  held: boolean;
  /** The proof and the picture are shown in turn. */
  flicker: boolean;
  differences: string[];
  /** One was just removed and can be put back. */
  aside: boolean;
  /** Address of the difference picture, while it is shown. */
  stops: string | null;
}

export const useProofs = create<Proofs>(() => ({
  list: [],
  chosen: null,
  wipe: null,
  beside: false,
  held: false,
  flicker: false,
  differences: [],
  aside: false,
  stops: null,
}));

export const set = useProofs.setState;
export const get = useProofs.getState;

const path = (proof: string) => ({ project: studio().project?.id ?? "", proof });

export async function loadProofs() {
  const project = studio().project?.id;
  if (!project) return;
  const list = await answer(
    api.GET("/api/projects/{project}/proofs", { params: { path: { project } } }),
  );
  set({ list });
}

export async function keepProof() {
  const { project, lookId, viewId, session } = studio();
  if (!project) return;
  const list = await change(() =>
    answer(
      api.POST("/api/projects/{project}/proofs", {
        params: { path: { project: project.id } },
        body: { look: lookId, view: viewId, session },
      }),
    ),
  );
  if (!list) return;
  stepDone("proof");
  set({ list, chosen: null, wipe: null });
  setStudio({ note: `Kept proof ${list[0]?.name ?? ""}` });
}

export async function chooseProof(chosen: string | null) {
  set({ chosen, differences: [], stops: null, wipe: chosen ? (get().wipe ?? 0.5) : null });
  if (!chosen) return;
  const { lookId: look, viewId: view } = studio();
  const differences = await answer(
    api.GET("/api/projects/{project}/proofs/{proof}/differences", {
      params: { path: path(chosen), query: { look, view } },
    }),
  ).catch(() => []);
  if (get().chosen === chosen) set({ differences });
}

export function showStops(proof: string) {
  const { project } = path(proof);
  set({
    stops: `/api/projects/${project}/proofs/${proof}/difference?session=${studio().session}&at=${Date.now()}`,
  });
}

export async function noteProof(proof: string, note: string) {
  const list = await change(() =>
    answer(
      api.PATCH("/api/projects/{project}/proofs/{proof}", {
        params: { path: path(proof) },
        body: { note },
      }),
    ),
  );
  if (list) set({ list });
}

export async function removeProof(proof: string) {
  const params = { path: path(proof) };
  const list = await change(() =>
    answer(api.DELETE("/api/projects/{project}/proofs/{proof}", { params })),
  );
  if (list) set({ list, chosen: null, wipe: null, stops: null, aside: true });
}

/** Bring back the proof that was removed last. */
export async function putBackProof() {
  const params = { path: { project: studio().project?.id ?? "" } };
  const list = await change(() =>
    answer(api.POST("/api/projects/{project}/proofs/back", { params })),
  );
  if (list) set({ list, aside: false });
}

export async function restoreProof(proof: string) {
  const params = { path: path(proof) };
  const back = await inTurn(
    () => answer(api.POST("/api/projects/{project}/proofs/{proof}/restore", { params })),
    (restored) => restored.project,
  );
  if (!back) return;
  setStudio({ lookId: back.look, viewId: back.view, held: null });
  set({ wipe: null, stops: null });
}
