import { beforeEach, describe, expect, it, vi } from "vitest";

describe("the first steps", () => {
  beforeEach(() => {
    localStorage.clear();
    vi.resetModules();
  });
  it("are three, and each is gone for ever once it is done", async () => {
    const first = await import("./firstSteps");
    expect(first.useFirstSteps.getState().left).toEqual(["sun", "level", "proof"]);
    first.stepDone("level");
    expect(first.useFirstSteps.getState().left).toEqual(["sun", "proof"]);
    vi.resetModules();
    const again = await import("./firstSteps");
    expect(again.useFirstSteps.getState().left).toEqual(["sun", "proof"]);
  });
  it("can all be put away at once", async () => {
    const first = await import("./firstSteps");
    first.noMoreSteps();
    expect(first.useFirstSteps.getState().left).toEqual([]);
    vi.resetModules();
    expect((await import("./firstSteps")).useFirstSteps.getState().left).toEqual([]);
  });
  it("do not stumble over what somebody else kept under their name", async () => {
    localStorage.setItem("first-steps", "{broken");
    expect((await import("./firstSteps")).useFirstSteps.getState().left.length).toBe(3);
  });
});
