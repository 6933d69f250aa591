// The project as the server knows it, and what is to be said of its work.

import type { Building, Project, Schemas } from "../../api/types";

export interface DocumentState {
  project: Project | null;
  projects: Schemas["Card"][];
  /** A change waits for a server that does not answer. */
  unsaved: boolean;
  note: string;
  /** What ends the work that the note tells of, if it can be ended. */
  stop: (() => void) | null;
  /** A zip that holds several buildings, of which one is to be chosen. */
  inZip: { file: File; up: Building["up"]; models: Schemas["InZip"][] } | null;
  problem: string;
}

export const document: DocumentState = {
  project: null,
  projects: [],
  unsaved: false,
  note: "",
  stop: null,
  inZip: null,
  problem: "",
};
