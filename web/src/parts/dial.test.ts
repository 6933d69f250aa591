import { describe, expect, it } from "vitest";
import { scale } from "./dial";

const dial = (rest: object) =>
  scale({
    label: "x", min: 0, max: 1, step: 0.01, normal: 0, unit: "", logarithmic: false, ...rest,
  }); // prettier-ignore

describe("a number on a slider", () => {
  it.each([
    [{ unit: "%" }, 0.25, "25 %"],
    [{ unit: "%", step: 0.005 }, 0.025, "2.5 %"],
    [{ unit: "%", min: -1 }, 0.25, "+25 %"],
    [{ unit: "EV", min: -2, step: 0.05 }, -0.5, "−0.50 EV"],
    [{ unit: "EV", min: -2, step: 0.1 }, 1, "+1.0 EV"],
    [{ unit: "EV", min: -2, step: 0.1 }, 0, "0.0 EV"],
    [{ unit: "-EV", min: 0.2, step: 0.1 }, 2, "−2.0 EV"],
    [{ unit: "K", min: 2000, step: 100 }, 7500, "7500 K"],
    [{ unit: "°", step: 1 }, 10, "10°"],
    [{ unit: "°", step: 0.5, min: -15 }, 2, "2.0°"],
    [{ unit: "°", step: 0.5, min: -15 }, -2, "−2.0°"],
    [{ unit: "×" }, 1.5, "1.50×"],
    [{ unit: "min", step: 6, min: 6 }, 90, "1.5 min"],
    [{}, 1.2, "1.20"],
  ])("%o is written and read as it stands", (rest, value, text) => {
    const { write, read } = dial(rest);
    expect(write(value)).toBe(text);
    expect(read?.(text)).toBeCloseTo(value);
  });
});
