// What of the project the page shows, and which of its parts lie open.

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

export interface ViewState {
  /** The page of all projects is shown. */
  home: boolean;
  lookId: string;
  viewId: string;
  stage: Stage;
  theme: "day" | "night";
  selected: string;
  sheet: "sun" | "plan" | "section";
  /** Whether the drawing sheet lies open in the side column, where that was said by hand. */
  sheetOpen: Partial<Record<Stage, boolean>>;
  /** A line of the plan to cut along: a place on it, and where one looks, in degrees from east. */
  sectionLine: { x: number; y: number; looking: number } | null;
  /** Part and material that were picked in the picture. */
  found: { part: string | null; material: string | null } | null;
  /** A place of the picture that a finding is about: left, top, right, bottom, 0…1. */
  framed: [number, number, number, number] | null;
  /** Outlines of the openings lie over the picture. */
  openingsShown: boolean;
  /** Each print of the strip is exposed for itself, not like the picture. */
  printsByThemselves: boolean;
  /** The picture as large as the window, without anything beside it. */
  alone: boolean;
  /** The sheet of pictures that lies in the mount, by its id; the proofs by name. */
  mounted: string | null;
  /** Pictures in the making lie over the picture: they need the processor, and nobody sees it. */
  covered: boolean;
  keysShown: boolean;
  /** What the guide is open about: a term, or nothing for its head; null where it is closed. */
  guide: string | null;
  /** The list of commands is open. */
  commandsShown: boolean;
}

export const view: ViewState = {
  home: false,
  lookId: "",
  viewId: "",
  stage: "Daylight",
  theme: localStorage.getItem("theme") === "night" ? "night" : "day",
  selected: "sun",
  sheet: "sun",
  sheetOpen: {},
  sectionLine: null,
  found: null,
  framed: null,
  openingsShown: false,
  printsByThemselves: false,
  alone: false,
  mounted: null,
  covered: false,
  keysShown: false,
  guide: null,
  commandsShown: false,
};

/** Whether the drawing sheet lies open in this stage. */
export const sheetOpen = (s: ViewState) => s.sheetOpen[s.stage] ?? ON_THE_SHEET.includes(s.stage);
