import { describe, expect, it } from "vitest";
import { guideLines, spiral } from "./Guides";
import { ringPlace } from "./SkyRing";
import { amount } from "./words";

describe("the sky picture around the chart", () => {
  const at = (azimuth: number, laid: { rotation_deg: number; mirror: boolean }) => {
    const a = (azimuth * Math.PI) / 180;
    return ringPlace(0.5 + 0.45 * Math.sin(a), 0.5 - 0.45 * Math.cos(a), laid)?.[0];
  };
  it("has its middle to the north and turns clockwise", () => {
    expect(at(0, { rotation_deg: 0, mirror: false })).toBeCloseTo(0.5);
    expect(at(90, { rotation_deg: 0, mirror: false })).toBeCloseTo(0.75);
    expect(at(90, { rotation_deg: 0, mirror: true })).toBeCloseTo(0.25);
    expect(at(90, { rotation_deg: 90, mirror: false })).toBeCloseTo(0.5);
  });
  it("leaves the chart free and begins at the horizon", () => {
    expect(ringPlace(0.5, 0.5, { rotation_deg: 0, mirror: false })).toBeNull();
    expect(ringPlace(0.5, 0.5 - 114.6 / 256, { rotation_deg: 0, mirror: false })?.[1]).toBeCloseTo(
      0.5,
      1,
    );
  });
});

describe("guides", () => {
  it("lie where composition has them", () => {
    const thirds = guideLines("thirds").map((l) => l[0] + l[1]);
    expect(Math.min(...thirds)).toBeCloseTo(1 / 3);
    const golden = guideLines("golden")[0]?.[0] ?? 0;
    // The short part is to the long one as the long one to the whole.
    expect(golden / (1 - golden)).toBeCloseTo(1 - golden);
    expect(guideLines("none")).toEqual([]);
  });
  it("draw a spiral that stays in the picture and closes in on one point", () => {
    const ends = [...spiral().matchAll(/A[\d.e-]+ [\d.e-]+ 0 0 1 ([\d.e-]+) ([\d.e-]+)/g)].map(
      (m) => [Number(m[1]), Number(m[2])] as const,
    );
    expect(ends.length).toBe(9);
    for (const [x, y] of ends) {
      expect(x).toBeGreaterThanOrEqual(-1e-9);
      expect(x).toBeLessThanOrEqual(1 + 1e-9);
      expect(y).toBeGreaterThanOrEqual(-1e-9);
      expect(y).toBeLessThanOrEqual(1 + 1e-9);
    }
    const step = (i: number) => {
      const [a, b] = [ends[i], ends[i + 1]];
      return a && b ? Math.hypot(a[0] - b[0], a[1] - b[1]) : 0;
    };
    for (let i = 0; i + 1 < 8; i++) expect(step(i + 1)).toBeLessThan(step(i));
  });
});

describe("amounts", () => {
  it("are written short", () => {
    expect(amount(0.0341)).toBe("0.034");
    expect(amount(17.2)).toBe("17");
    expect(amount(12345)).toBe("12 345");
  });
});
