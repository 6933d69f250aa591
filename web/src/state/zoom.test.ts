import { beforeEach, describe, expect, it } from "vitest";
import { panBy, useZoom, zoomAt, zoomOut } from "./zoom";

const z = useZoom.getState;

/** Where a point of the picture (shares) lies in what is seen. */
const seen = (x: number) => (x - z().x) * z().scale;

describe("a closer look", () => {
  beforeEach(zoomOut);
  it("keeps the point under the cursor where it is", () => {
    zoomAt(0.3, 0.6, 2);
    const before = seen(0.3);
    zoomAt(0.3, 0.6, 1.7);
    expect(seen(0.3)).toBeCloseTo(before);
    expect(z().scale).toBeCloseTo(3.4);
  });
  it("goes no closer than eight times and no farther than the whole", () => {
    for (let i = 0; i < 9; i++) zoomAt(0.5, 0.5, 2);
    expect(z().scale).toBe(8);
    for (let i = 0; i < 9; i++) zoomAt(0.1, 0.9, 0.5);
    expect(z()).toEqual({ scale: 1, x: 0, y: 0 });
  });
  it("never shows what lies beside the picture", () => {
    zoomAt(0.5, 0.5, 4);
    panBy(9, -9);
    expect([z().x, z().y]).toEqual([0, 0.75]);
    panBy(-9, 9);
    expect([z().x, z().y]).toEqual([0.75, 0]);
  });
});
