// Clicks in the picture that set something: the focus, the white point, a new tree, an opening.

import type { Addition, PartGrade } from "../api/types";
import { askLanding, askNeutral, askOpening, askUnder, pick } from "./asking";
import { edit, editLook, editModel, get, lookRow, type Picking, placeFixture, set } from "./studio";

/** First corner of an opening that is being placed. */
let corner: [number, number] | null = null;

export async function pickFor(what: Picking, x: number, y: number) {
  if (what === "focus") {
    const hit = await pick(x, y);
    if (!hit.hit || hit.depth === null) {
      set({ problem: "There is nothing to focus on at this point; click a surface." });
      return;
    }
    set({ picking: null });
    const settings = { focus_m: Math.max(hit.depth, 0.05), depth_of_field: true };
    await edit("view", get().viewId, { settings }, "Focus");
    return;
  }
  if (what === "part") {
    const hit = await pick(x, y);
    if (!hit.hit || !hit.part) {
      set({ problem: "There is no part of the building at this point." });
      return;
    }
    set({ picking: null, found: { part: hit.part, material: hit.material } });
    return;
  }
  if (what === "metered area") {
    set({ picking: null });
    await editLook({ exposure: { automatic: "area", area: [x, y] } }, "Meter on an area");
    return;
  }
  if (what === "aim") return aimAt(x, y);
  if (what === "opening") return secondCorner(x, y);
  if (what === "grade part" || what === "grade material") return gradePicked(what, x, y);
  if (what !== "neutral") return addAt(what.slice(4) as Addition["kind"], x, y);
  const { kelvin, tint } = await askNeutral(x, y);
  if (kelvin === null || tint === null) {
    set({ problem: "There is no light at this point; click something brighter." });
    return;
  }
  set({ picking: null });
  await editLook({ exposure: { kelvin, tint } }, "Pick a neutral");
}

/** A click on the plan while a part is picked: the one under that place. */
export async function pickOnPlan(place: [number, number, number]) {
  const hit = await askUnder(place);
  if (!hit.hit || !hit.part) {
    set({ problem: "There is no part of the building under this point of the plan." });
    return;
  }
  set({ picking: null, found: { part: hit.part, material: hit.material } });
}

/** A lamp put on the plan: under the ceiling there, or so far off the floor. */
export async function placeOnPlan(place: [number, number, number], freely: boolean) {
  const { placing, landing } = get();
  if (!placing) return;
  const snap = landing.snap && !freely;
  const landed = await askLanding([0, 0], placing, landing.off_m, snap, place);
  if (!landed.hit) {
    set({
      problem:
        "There is nothing above this point of the plan to hang a lamp on; give it a height off the surface.",
    });
    return;
  }
  await placeFixture(placing, landed);
}

async function secondCorner(x: number, y: number) {
  if (!corner) {
    corner = [x, y];
    set({ note: "Now the opposite corner." });
    return;
  }
  const { opening, problem } = await askOpening([corner, [x, y]]);
  corner = null;
  set({ note: "", picking: null });
  const edits = get().project?.models[0]?.settings.edits;
  if (!opening || !edits) {
    set({ problem: problem ?? "" });
    return;
  }
  const name = `Opening by hand ${edits.added_openings.length + 1}`;
  const { position, inward, width, height } = opening;
  const made = { position, inward, width, height, name, gain: 0 };
  await editModel({ added_openings: [...edits.added_openings, made] }, name);
}

/** Turn every copy of the selected fixture to a point. */
async function aimAt(x: number, y: number) {
  const hit = await pick(x, y);
  const source = get().project?.sources.find((s) => s.id === get().selected);
  if (!hit.hit || !hit.position || source?.settings.kind !== "fixture") {
    set({ problem: "There is no surface at this point; click what should be lit." });
    return;
  }
  const [tx, ty, tz] = hit.position;
  const places = source.settings.places.map((p) => {
    const [px, py, pz] = p.position;
    const length = Math.hypot(tx - px, ty - py, tz - pz) || 1;
    return { ...p, direction: [(tx - px) / length, (ty - py) / length, (tz - pz) / length] };
  });
  set({ picking: null });
  await edit("source", source.id, { settings: { places } }, `Aim ${source.name}`);
}

async function gradePicked(what: "grade part" | "grade material", x: number, y: number) {
  const hit = await pick(x, y);
  const of = what === "grade part" ? "part" : "material";
  const found = of === "part" ? hit.part : hit.material;
  if (!hit.hit || !found) {
    set({ problem: "There is no part of the building at this point." });
    return;
  }
  set({ picking: null });
  await gradeNamed(of, found);
}

/** Grade a part or material by itself; one that is graded already stays as it is. */
export async function gradeNamed(of: PartGrade["of"], found: string) {
  const parts = lookRow(get())?.settings.finish.parts;
  if (!parts) return;
  if (parts.some((p) => p.of === of && p.what === found)) return;
  const made: PartGrade = {
    of,
    what: found,
    name: "",
    stops: 0,
    contrast: 1,
    saturation: 1,
    warm: 0,
    soft: 0,
  };
  await editLook({ finish: { parts: [made, ...parts] } } as never, `Grade ${found}`);
}

/** Size, colour and place over the clicked point of what is added first. */
const USUAL: Record<Addition["kind"], Pick<Addition, "size_m" | "colour">> = {
  block: { size_m: [6, 6, 5], colour: "#9c958a" },
  tree: { size_m: [4, 4, 6], colour: "#5d7440" },
  blind: { size_m: [1.5, 0.05, 1.6], colour: "#d8d4c8" },
  ground: { size_m: [30, 30, 0.1], colour: "#8a8578" },
  blocker: { size_m: [2, 0.02, 1.5], colour: "#060606" },
  "light card": { size_m: [1.2, 0.02, 0.8], colour: "#ffffff" },
};

async function addAt(kind: Addition["kind"], x: number, y: number) {
  const hit = await pick(x, y);
  const edits = get().project?.models[0]?.settings.edits;
  if (!hit.hit || !hit.position || !hit.normal || !edits) {
    set({ problem: "There is no surface at this point; click where it should stand." });
    return;
  }
  const count = edits.additions.filter((a) => a.kind === kind).length + 1;
  const name = `${kind.charAt(0).toUpperCase()}${kind.slice(1)} ${count}`;
  // On a wall it hangs a little before it, on the floor it stands.
  const [px, py, pz] = hit.position;
  const [nx, ny] = hit.normal;
  const gap = { blind: 0.1, blocker: 0.1, "light card": 0.03 }[kind as string] ?? 0;
  const upright = Math.hypot(nx, ny) > 0.5;
  const made: Addition = {
    id: Math.random().toString(36).slice(2, 10),
    name,
    kind,
    position: [px + nx * gap, py + ny * gap, kind === "ground" ? pz + 0.005 : pz],
    turn_deg: upright ? Math.round((Math.atan2(ny, nx) * 180) / Math.PI - 90) : 0,
    tilt_deg: kind === "blind" ? 35 : 0,
    on: true,
    emission_cd_m2: kind === "light card" ? 500 : 0,
    picture: null,
    picture_name: "",
    ...USUAL[kind],
  };
  set({ picking: null });
  await editModel({ additions: [...edits.additions, made] }, `Add ${name}`);
}

/** Esc: give up what was begun. */
export function stopPicking() {
  corner = null;
  set({ picking: null, note: "" });
}
