// Clicks in the picture that set something: the focus, the white point, a new tree, an opening.

import type { Addition, PartGrade } from "../api/types";
import { ask, askLanding, askNeutral, askOpening, askUnder, pick } from "./asking";
import { edit, editLook, editModel, placeFixture } from "./edits";
import { set as setLight } from "./lightPlan";
import { lookRow } from "./look";
import { addCopy, copyOf, copyPart, takeHold } from "./moved";
import { giveUpStroke } from "./plants";
import { get, set } from "./store";
import { type Picking } from "./store/hand";

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
  if (what === "part" || what === "move part" || what === "copy part") {
    const hit = await pick(x, y);
    if (!hit.hit || !hit.part) {
      set({ problem: "There is no part of the building at this point." });
      return;
    }
    set({ picking: null, found: { part: hit.part, material: hit.material } });
    await handPart(what, hit.part);
    return;
  }
  if (what === "room") {
    const hit = await pick(x, y);
    if (!hit.hit || !hit.position) {
      set({ problem: "There is no surface at this point; click inside a room." });
      return;
    }
    inRoom(hit.position, hit.normal);
    return;
  }
  if (what === "metered area") {
    set({ picking: null });
    await editLook({ exposure: { automatic: "area", area: [x, y] } }, "Meter on an area");
    return;
  }
  if (what === "plant") return; // The hand that plants has its own ways.
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

/** Off what was clicked, so that the room is seen from within. */
function inRoom([x, y, z]: number[], normal: number[] | null) {
  const [a = 0, b = 0] = normal ?? [];
  setLight({ at: [(x ?? 0) + 0.5 * a, (y ?? 0) + 0.5 * b, (z ?? 0) + 1] });
  set({ picking: null });
}

/** What was picked is taken hold of, or copied, unless it is an addition, which a hand moves anyway. */
async function handPart(what: Picking, part: string) {
  const edits = get().project?.models[0]?.settings.edits;
  if (what === "part" || edits?.additions.some((a) => a.name === part)) return;
  const copy = edits?.copies.find((c) => c.name === part);
  if (what === "move part") return copy ? undefined : takeHold(part);
  await (copy ? addCopy(copyOf(copy, [0.6, 0, 0])) : copyPart(part));
}

/** A click on the plan while a part is picked: the one under that place. */
export async function pickOnPlan(place: [number, number, number], what: Picking) {
  if (what === "room") {
    setLight({ at: place });
    set({ picking: null });
    return;
  }
  const hit = await askUnder(place);
  if (!hit.hit || !hit.part) {
    set({ problem: "There is no part of the building under this point of the plan." });
    return;
  }
  set({ picking: null, found: { part: hit.part, material: hit.material } });
  await handPart(what, hit.part);
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

/** What is added stands where it was clicked: how, the engine says, which knows the surface there. */
async function addAt(kind: Addition["kind"], x: number, y: number) {
  const { problem, addition } = await ask("stand", { kind, x, y });
  const edits = get().project?.models[0]?.settings.edits;
  if (!addition || !edits) {
    set({ problem: problem ?? "" });
    return;
  }
  set({ picking: null });
  await editModel({ additions: [...edits.additions, addition] }, `Add ${addition.name}`);
}

/** Esc: give up what was begun. */
export function stopPicking() {
  corner = null;
  giveUpStroke();
  set({ picking: null, note: "" });
}
