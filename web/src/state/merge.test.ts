import { expect, it } from "vitest";
import { merge } from "./merge";

const old = { sun: { mode: "time", azimuth: 180 }, mix: { sky: { level: 0 } }, list: [1, 2] };

it("lays an object over another, part by part, and changes neither", () => {
  const over = { sun: { azimuth: 90 }, mix: { lamp: { level: 2 } }, list: [3] };
  expect(merge(old, over)).toEqual({
    sun: { mode: "time", azimuth: 90 },
    mix: { sky: { level: 0 }, lamp: { level: 2 } },
    list: [3],
  });
  expect(old.sun.azimuth).toBe(180);
});

it("keeps what stays as it is", () => {
  expect(merge(old, { sun: { mode: "time" } })).toBe(old);
  const moved = merge(old, { sun: { azimuth: 1 } });
  expect(moved.mix).toBe(old.mix);
  expect(moved.sun).not.toBe(old.sun);
  expect(merge(old, { sun: { extra: undefined } }).sun).toHaveProperty("extra");
});
