import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/types";
import { shownAtFirst, usualCut } from "./planFit";

const square = (x: number, y: number, size: number) =>
  [
    [x, y],
    [x + size, y],
    [x + size, y + size],
    [x, y + size],
  ] as [number, number][];

const cut = (filled: [number, number][][], low: number, high: number): Schemas["Plan"] => ({
  height_m: 1.2,
  filled,
  open: [],
  below: [],
  low: [low, low],
  high: [high, high],
});

describe("the drawing at first", () => {
  it("shows a building whole, wherever the camera stands", () => {
    const seen = shownAtFirst(cut([square(0, 0, 12)], 0, 12), [-40, 3]);
    expect(seen).toEqual({ x: 6, y: 6, span: 12 * 1.16 });
  });
  it("shows of a town the house one stands in", () => {
    const town = [square(0, 0, 10), square(100, 100, 10), square(-150, -150, 300)];
    expect(shownAtFirst(cut(town, -150, 150), [4, 5])).toEqual({ x: 5, y: 5, span: 11.6 });
  });
  it("shows all of a place where nothing is near", () => {
    expect(shownAtFirst(cut([square(0, 0, 10)], -100, 100), [80, 80]).span).toBeCloseTo(232);
  });
});

describe("the usual cut", () => {
  it("is at the sills of the ground floor, and below the eyes in an upper one", () => {
    expect([usualCut(1.55), usualCut(11.02), usualCut(-2)]).toEqual([1.2, 10.6, 1.2]);
  });
});
