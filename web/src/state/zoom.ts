// A closer look at the picture: what is beside it for comparison is looked at as closely.

import { create } from "zustand";

interface Zoom {
  scale: number;
  /** Left and top of what is seen, in shares of the picture. */
  x: number;
  y: number;
}

const WHOLE: Zoom = { scale: 1, x: 0, y: 0 };
const CLOSEST = 8;

export const useZoom = create<Zoom>(() => WHOLE);

const within = (z: Zoom): Zoom => ({
  scale: z.scale,
  x: Math.min(Math.max(z.x, 0), 1 - 1 / z.scale),
  y: Math.min(Math.max(z.y, 0), 1 - 1 / z.scale),
});

/** Closer or farther, with a point of the picture (shares) staying under the cursor. */
export function zoomAt(x: number, y: number, factor: number) {
  useZoom.setState((z) => {
    const scale = Math.min(Math.max(z.scale * factor, 1), CLOSEST);
    return within({
      scale,
      x: x - ((x - z.x) * z.scale) / scale,
      y: y - ((y - z.y) * z.scale) / scale,
    });
  });
}

/** Move what is seen by shares of the whole picture. */
export const panBy = (x: number, y: number) =>
  useZoom.setState((z) => within({ ...z, x: z.x - x, y: z.y - y }));

export const zoomOut = () => useZoom.setState(WHOLE);

/** Style of what is looked at closely. Marks on it keep their size by `--closer`. */
export const closeUp = (z: Zoom) => ({
  "--closer": z.scale,
  transform: `scale(${z.scale}) translate(${-z.x * 100}%, ${-z.y * 100}%)`,
  transformOrigin: "0 0",
});
