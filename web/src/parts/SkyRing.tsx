import { useEffect, useRef } from "react";
import type { Look } from "../api/types";

/** Inner and outer edge of the ring in shares of the drawing's side: its horizon and its top. */
const INNER = 114.5 / 256;
const OUTER = 127 / 256;
/** Elevation at the outer edge, in degrees: higher up the picture says little about directions. */
const HIGHEST = 60;
const PIXELS = 512;

/**
 * Column and row, 0…1, at which a picture shows a place of the ring around a drawing of side 1;
 * null off the ring. The picture's middle looks north before it is turned.
 */
export function ringPlace(
  x: number,
  y: number,
  { rotation_deg, mirror }: Pick<Look["sky"]["hdri"], "rotation_deg" | "mirror">,
): [number, number] | null {
  const [dx, dy] = [x - 0.5, 0.5 - y];
  const r = Math.hypot(dx, dy);
  if (r < INNER || r > OUTER) return null;
  const azimuth = (Math.atan2(dx, dy) * 180) / Math.PI - rotation_deg;
  const column = ((((mirror ? -azimuth : azimuth) / 360 + 0.5) % 1) + 1) % 1;
  const elevation = ((r - INNER) / (OUTER - INNER)) * HIGHEST;
  return [column, 0.5 - elevation / 180];
}

/** The sky picture wrapped around the sun chart, as it stands to the building. */
export function SkyRing({ hdri }: { hdri: Look["sky"]["hdri"] }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { asset, rotation_deg, mirror } = hdri;
  useEffect(() => {
    if (!asset) return;
    const picture = new Image();
    picture.onload = () => {
      const to = canvas.current?.getContext("2d");
      const [w, h] = [picture.naturalWidth, picture.naturalHeight];
      const small = document.createElement("canvas");
      [small.width, small.height] = [w, h];
      const from = small.getContext("2d");
      if (!to || !from) return;
      from.drawImage(picture, 0, 0);
      const source = from.getImageData(0, 0, w, h).data;
      const ring = to.createImageData(PIXELS, PIXELS);
      for (let i = 0; i < PIXELS * PIXELS; i++) {
        const [x, y] = [((i % PIXELS) + 0.5) / PIXELS, (Math.floor(i / PIXELS) + 0.5) / PIXELS];
        const place = ringPlace(x, y, { rotation_deg, mirror });
        if (!place) continue;
        const column = Math.min(Math.floor(place[0] * w), w - 1);
        const row = Math.min(Math.floor(place[1] * h), h - 1);
        const p = (row * w + column) * 4;
        ring.data.set([source[p] ?? 0, source[p + 1] ?? 0, source[p + 2] ?? 0, 255], i * 4);
      }
      to.putImageData(ring, 0, 0);
    };
    picture.src = `/api/skies/${asset}/thumbnail`;
  }, [asset, rotation_deg, mirror]);
  return (
    <div
      role="img"
      aria-label="The sky picture around the chart"
      className="pointer-events-none absolute inset-0"
    >
      <canvas ref={canvas} width={PIXELS} height={PIXELS} aria-hidden className="h-full w-full" />
    </div>
  );
}
