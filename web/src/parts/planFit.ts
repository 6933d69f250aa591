// Where a building is cut and what of the drawing is shown at first.

import type { Schemas } from "../api/types";

type Flat = [number, number];
type Box = { low: Flat; high: Flat };

/** Metres across above which a drawing is that of a place, not of a building. */
const PLACE = 60;
/** What comes this near to the camera belongs to its building; wider loops are ground or water. */
const NEAR = 8;
const WIDE = 40;

/** Height of the usual cut through the storey a camera stands in: at the sills of its windows, or below its eyes. */
export function usualCut(eye: number) {
  return eye < 3 ? 1.2 : Math.round((eye - 0.4) * 20) / 20;
}

function boxOf(loop: Flat[]): Box {
  const [x, y] = [0, 1].map((i) => loop.map((p) => p[i] ?? 0)) as [number[], number[]];
  return {
    low: [Math.min(...x), Math.min(...y)],
    high: [Math.max(...x), Math.max(...y)],
  };
}

/** The middle and span of a drawing that shows the building, of a whole place that around the camera. */
export function shownAtFirst(cut: Schemas["Plan"], eye: Flat) {
  let { low, high } = cut as Box;
  if (Math.max(high[0] - low[0], high[1] - low[1]) > PLACE) {
    const near = cut.filled
      .map((loop) => boxOf(loop as Flat[]))
      .filter(
        (b) =>
          [0, 1].every((i) => (b.low[i] ?? 0) < (eye[i] ?? 0) + NEAR) &&
          [0, 1].every((i) => (b.high[i] ?? 0) > (eye[i] ?? 0) - NEAR) &&
          Math.max(b.high[0] - b.low[0], b.high[1] - b.low[1]) < WIDE,
      );
    if (near.length > 0) {
      low = [Math.min(...near.map((b) => b.low[0])), Math.min(...near.map((b) => b.low[1]))];
      high = [Math.max(...near.map((b) => b.high[0])), Math.max(...near.map((b) => b.high[1]))];
    }
  }
  return {
    x: (low[0] + high[0]) / 2,
    y: (low[1] + high[1]) / 2,
    span: Math.max(high[0] - low[0], high[1] - low[1]) * 1.16,
  };
}
