import { describe, expect, it } from "vitest";
import type { Project } from "../api/types";
import { commandsOf, searched } from "./commands";

const project = {
  looks: [{ id: "l", name: "Late sun" }],
  views: [{ id: "v", name: "Bench" }],
} as unknown as Project;
const all = commandsOf(project, [{ id: "a", name: "Shelf lights" }]);
const first = (typed: string) => searched(all, typed)[0];

describe("the list of commands", () => {
  it.each([
    ["IES", "Photometric shelf"],
    ["clipping", "Clipping overlay"],
    ["hdri", "Sky"],
    ["turbidity", "Sky"],
    ["lut", "LUT"],
    ["render passes", "Layers of the EXR"],
    ["dof", "Depth of field"],
    ["late", "Late sun"],
    ["bench", "Bench"],
    ["shelf li", "Shelf lights"],
    ["full screen", "Picture alone"],
    ["undo", "Undo"],
  ])("finds %s as %s", (typed, name) => {
    expect(first(typed)?.name).toBe(name);
  });
  it("shows the stages before anything is typed, and nothing for what is not there", () => {
    expect(searched(all, "").map((c) => c.name)).toContain("Handover");
    expect(searched(all, "zzz")).toEqual([]);
  });
  it("names every section once in a stage", () => {
    const names = all.map((c) => `${c.where} ${c.name}`);
    expect(new Set(names).size).toBe(names.length);
  });
});
