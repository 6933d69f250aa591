import { describe, expect, it } from "vitest";
import { merge } from "../state/merge";
import { clock, degrees, duration, lux, place, shutter, signed, size } from "./words";

describe("quantities in words", () => {
  it("writes stops with a sign and a true minus", () => {
    expect(signed(0)).toBe("0.0");
    expect(signed(0.7)).toBe("+0.7");
    expect(signed(-2.3)).toBe("−2.3");
    expect(degrees(-4.04)).toBe("−4.0°");
  });
  it("writes bytes as one reads them", () => {
    expect(size(0)).toBe("0.0 MB");
    expect(size(312)).toBe("1 kB");
    expect(size(46_200)).toBe("47 kB");
    expect(size(4_230_000)).toBe("4.2 MB");
    expect(size(42_300_000)).toBe("42 MB");
    expect(size(2_340_000_000)).toBe("2.3 GB");
  });
  it("writes shutters as photographers do", () => {
    expect(shutter(1 / 125)).toBe("1/125 s");
    expect(shutter(0.5)).toBe("0.5 s");
    expect(shutter(2)).toBe("2 s");
  });
  it("writes clock, lux and place", () => {
    expect(clock(972)).toBe("16:12");
    expect(lux(31234)).toBe("31 200 lx");
    expect(lux(3.42)).toBe("3.4 lx");
    expect(place(43.6, -9.1)).toBe("43.6° N, 9.1° W");
  });
});

describe("what the hand holds", () => {
  it("lies over the saved state member by member", () => {
    const saved = { sun: { size: 1, kelvin: null as number | null }, list: [1, 2] };
    expect(merge(saved, { sun: { size: 4 } })).toEqual({
      sun: { size: 4, kelvin: null },
      list: [1, 2],
    });
    expect(merge(saved, { list: [3] }).list).toEqual([3]);
    expect(merge(saved, { sun: { kelvin: null } }).sun.kelvin).toBeNull();
    expect(saved.sun.size).toBe(1);
  });
});

describe("duration", () => {
  it("says no more than one cares to know", () => {
    expect(duration(0.2)).toBe("1 s");
    expect(duration(89)).toBe("89 s");
    expect(duration(95)).toBe("2 min");
    expect(duration(3600)).toBe("60 min");
    expect(duration(3600 * 3.72)).toBe("3.7 h");
  });
});
