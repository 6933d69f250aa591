// One click in the picture that sets something: the focus, or the white point.

import { askNeutral, pick } from "./picture";
import { edit, editLook, get, set } from "./studio";

export type Picking = "focus" | "neutral" | "part";

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
  const { kelvin, tint } = await askNeutral(x, y);
  if (kelvin === null || tint === null) {
    set({ problem: "There is no light at this point; click something brighter." });
    return;
  }
  set({ picking: null });
  await editLook({ exposure: { kelvin, tint } }, "Pick a neutral");
}
