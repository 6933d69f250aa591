import { describe, expect, it } from "vitest";
import { fit } from "./fit";

describe("pictures in a place", () => {
  it("gives one picture all of the place that its shape can use", () => {
    expect(fit(1, 16 / 9, 952, 600)).toEqual({ columns: 1, width: 952 });
    expect(fit(1, 1, 952, 420).width).toBe(400);
  });
  it("stays inside, and no other number of columns is larger", () => {
    for (const count of [2, 5, 8, 12, 24])
      for (const [w, h] of [
        [952, 540],
        [1330, 760],
        [500, 900],
      ] as const) {
        const { columns, width } = fit(count, 1.5, w, h);
        const rows = Math.ceil(count / columns);
        expect(columns * width + (columns - 1) * 10).toBeLessThanOrEqual(w);
        expect(rows * (width / 1.5 + 20) + (rows - 1) * 10).toBeLessThanOrEqual(h + rows);
        for (const other of [columns - 1, columns + 1].filter((c) => c > 0)) {
          const more = Math.ceil(count / other);
          const across = (w - 10 * (other - 1)) / other;
          const down = ((h - 10 * (more - 1)) / more - 20) * 1.5;
          expect(Math.floor(Math.min(across, down))).toBeLessThanOrEqual(width);
        }
      }
  });
});
