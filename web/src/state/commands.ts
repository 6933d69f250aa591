// Everything the page can do, by its name and by what else it is called in the trade.

import { showView } from "./look";
import { goHome } from "./home";
import { stepBack } from "./edits";
import { set, useStudio } from "./store";
import { STAGES, type Stage } from "./store/view";
import type { Project } from "../api/types";

export interface Command {
  name: string;
  /** What else it is called. */
  words: string;
  /** Where it lies, or its key. */
  where: string;
  /** What the guide tells of it under. */
  about: string;
  run: () => void;
}

/** Sections of the panels: stage, title, and what else one would call what is in them. */
export const SECTIONS: [Stage, string, string][] = [
  ["Site", "Building", "import model GLB glTF OBJ IFC file units up axis scale replace"],
  ["Site", "Place", "location latitude longitude town city time zone north"],
  ["Site", "Check", "check the model errors holes doubles inverted normals faces"],
  ["Site", "Parts", "objects hide show only isolate rename tags outliner"],
  ["Site", "Materials", "reflectance roughness metal albedo glass clear coat emissive shader"],
  ["Site", "Additions", "blocker gobo flag ground tree blind venetian light card softbox"],
  ["View", "Views", "cameras copy remove"],
  [
    "View",
    "Lens",
    "focal length field of view lens shift verticals roll aspect ratio near clipping crop",
  ],
  ["View", "Depth of field", "DOF focus blur aperture blades bokeh"],
  ["View", "Guides", "composition thirds golden ratio spiral safe area grid"],
  ["Daylight", "Sun", "azimuth elevation date time disc size softness of shadows"],
  [
    "Daylight",
    "Sky",
    "HDRI dome environment turbidity clear overcast CIE IBL horizon blur ground colour",
  ],
  ["Daylight", "Night", "moon town glow stars"],
  [
    "Daylight",
    "Starting lights",
    "propose begin ideas raking sun overcast dusk night presets looks",
  ],
  ["Daylight", "Pattern map", "find sun positions hunt"],
  ["Daylight", "Aim the sun", "patch of sun through a window direction"],
  ["Daylight", "Hour sheet", "sun study shadow study time lapse year day kept suns"],
  ["Daylight", "Openings", "window portals sample daylight light only through openings gain"],
  ["Daylight", "Air", "haze fog mist volumetric god rays shafts atmosphere"],
  ["Daylight", "Clay", "white model override material"],
  ["Fixtures", "Add a fixture", "lamp light rectangle disc sphere tube spot area light place"],
  ["Fixtures", "Photometric shelf", "IES LDT EULUMDAT luminaire photometry"],
  ["Fixtures", "Fixtures", "lumen kelvin watts candela colour temperature repeat group"],
  ["Balance", "All levels", "mix exposure of lights master copy levels reset order of the strip"],
  ["Balance", "Overlay", "clipping zebra false colour luminance noise heat map"],
  ["Balance", "Proofs", "snapshots versions compare wipe A/B"],
  ["Balance", "Meter", "spot meter lux cd/m² luminance ratio key fill"],
  ["Balance", "Looks side by side", "contact sheet compare looks"],
  ["Balance", "Noise", "grain light cache path traced bounced global illumination GI region"],
  ["Finish", "Start", "preset natural flat strong copy finish kept finishes"],
  ["Finish", "Tone", "tone mapping ACES film curve view transform"],
  ["Finish", "Light", "contrast shadows highlights compression pivot"],
  ["Finish", "Colour", "saturation vibrance split tone tint white balance"],
  ["Finish", "Curve", "curves RGB black point white point levels"],
  ["Finish", "LUT", "look-up table cube 3D LUT film emulation"],
  ["Finish", "CDL", "slope offset power lift gamma gain"],
  ["Finish", "Lens", "glow bloom glare star vignette grain sharpen"],
  ["Finish", "Backdrop", "background plate photo"],
  ["Finish", "Single parts", "masks mattes selective grade"],
  ["Finish", "Ambient occlusion", "AO corner darkening"],
  ["Finish", "Depth haze", "aerial perspective fog depth cue"],
  ["Finish", "Gamut", "out of gamut sRGB soft proof"],
  ["Handover", "Save stills", "render final width size resolution quality noise time"],
  ["Handover", "Files", "EXR PNG TIFF JPEG names template colour space"],
  [
    "Handover",
    "Layers of the EXR",
    "AOV render passes cryptomatte depth Z normal bit depth compression",
  ],
  ["Handover", "Stills", "queue render progress download refine mix again"],
  ["Handover", "Time-lapse", "series sequence animation hours dimming WebP numbered frames"],
  ["Handover", "Documents", "light schedule PDF CSV sun table client sheet look book HTML page"],
  ["Handover", "Contact sheet", "all views all looks overview print"],
  ["Handover", "Lights", "export lights USD glTF IES"],
  ["Handover", "Storage", "disk space free clean up"],
];

/** What a key does, by its name. */
const KEYED: [string, string, string][] = [
  ["Picture alone", "a", "full screen maximise preview"],
  ["Clay on or off", "c", "white model"],
  ["Pause or go on", " ", "stop rendering freeze"],
  ["Clipping overlay", "b", "zebra burnt blown"],
  ["Luminance in false colour", "l", "heat map"],
  ["Next guide", "g", "composition grid"],
  ["Keep a proof", "p", "snapshot save picture"],
  ["Meter", "m", "spot light meter reading"],
  ["Walk in the picture", "w", "fly orbit move camera navigate"],
  ["Region first", "r", "render region crop"],
  ["Brighter by a third of a stop", ".", "exposure up"],
  ["Darker by a third of a stop", ",", "exposure down"],
  ["Next view", "v", "camera"],
  ["Keyboard", "?", "shortcuts help keys"],
];

/** Under which word the guide tells of what a key does, where it is not its name. */
const ABOUT: Record<string, string> = {
  "Picture alone": "The picture",
  "Clay on or off": "Clay",
  "Pause or go on": "Pause",
  "Clipping overlay": "Clipped",
  "Luminance in false colour": "Clipped",
  "Next guide": "guides",
  "Keep a proof": "Proofs",
  "Region first": "The picture",
  "Brighter by a third of a stop": "Set the exposure",
  "Darker by a third of a stop": "Set the exposure",
  "Next view": "View",
  Keyboard: "Numbers",
};

const press = (key: string) =>
  document.body.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));

/** How long what was gone to is marked, in ms. */
const MARKED_FOR = 1800;

/** A stage that was not open yet is loaded first; given up after so long, in ms. */
const LOADED_IN = 10_000;

/** Open the stage of a section, bring it into sight and mark it for a while. */
export function goTo(stage: Stage, title: string) {
  set({ stage, alone: false, mounted: null, home: false });
  const until = performance.now() + LOADED_IN;
  const look = () => {
    const found = [...document.querySelectorAll<HTMLElement>("aside section[aria-label]")].find(
      (e) => e.getAttribute("aria-label") === title,
    );
    if (!found) {
      if (performance.now() < until && useStudio.getState().stage === stage)
        requestAnimationFrame(look);
      return;
    }
    found.scrollIntoView({ block: "center" });
    found.classList.add("found");
    setTimeout(() => found.classList.remove("found"), MARKED_FOR);
    found.querySelector<HTMLElement>("button, input, select, [tabindex='0']")?.focus();
  };
  // Two frames: the dialogue that asked gives the keyboard back first.
  requestAnimationFrame(() => requestAnimationFrame(look));
}

export function commandsOf(project: Project | null, sources: { id: string; name: string }[]) {
  const all: Command[] = [];
  const add = (name: string, words: string, where: string, run: () => void, about = name) =>
    all.push({ name, words, where, run, about });
  STAGES.forEach((stage, i) => add(stage, "stage", `stage, ${i + 1}`, () => set({ stage })));
  for (const [stage, title, words] of SECTIONS) add(title, words, stage, () => goTo(stage, title));
  for (const [name, key, words] of KEYED)
    add(name, words, key === " " ? "Space" : key.toUpperCase(), () => press(key), ABOUT[name]);
  add("Guide", "help manual documentation how to", "", () => set({ guide: "" }));
  add("Undo", "back revert", "Ctrl Z", () => void stepBack("undo"));
  add("Redo", "again", "Ctrl Shift Z", () => void stepBack("redo"), "Undo");
  add("All projects", "home open new export rename duplicate", "", goHome, "Projects");
  for (const look of project?.looks ?? [])
    add(
      look.name,
      "look lighting state",
      "look",
      () => set({ lookId: look.id, held: null }),
      "looks",
    );
  for (const view of project?.views ?? [])
    add(view.name, "view camera", "view", () => showView(view.id), "View");
  for (const source of sources)
    add(
      source.name,
      "source lamp light",
      "source",
      () => {
        const stage = source.id === "sun" || source.id === "sky" ? "Daylight" : "Fixtures";
        set({ selected: source.id, stage });
      },
      "source",
    );
  return all;
}

/** Commands that have every word that was typed, those that begin with it first. */
export function searched(all: Command[], typed: string): Command[] {
  const wanted = typed.toLowerCase().split(/\s+/).filter(Boolean);
  if (wanted.length === 0) return all.slice(0, STAGES.length);
  const rank = (c: Command) => {
    const name = c.name.toLowerCase();
    const text = `${name} ${c.words} ${c.where}`.toLowerCase();
    if (!wanted.every((w) => text.includes(w))) return null;
    if (name === wanted.join(" ")) return 0;
    if (name.startsWith(wanted[0] ?? "")) return 1;
    // A whole word counts before a part of one.
    return wanted.every((w) => text.split(/[^\p{L}\p{N}²/]+/u).includes(w)) ? 2 : 3;
  };
  return all
    .map((c) => ({ c, r: rank(c) }))
    .filter((x): x is { c: Command; r: number } => x.r !== null)
    .sort((a, b) => a.r - b.r)
    .map((x) => x.c)
    .slice(0, 12);
}
