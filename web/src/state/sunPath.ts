// The sun's path over the chart, and the time at which it stands nearest to a point of it.

import type { Track } from "../api/types";

export const SIZE = 256;
export const MIDDLE = SIZE / 2;
export const RADIUS = 113;

/** Stereographic projection of the sky: zenith in the middle, horizon on the circle. */
export function project(azimuth: number, elevation: number): [number, number] {
  const r = RADIUS * Math.tan(((90 - elevation) / 2) * (Math.PI / 180));
  const a = azimuth * (Math.PI / 180);
  return [MIDDLE + r * Math.sin(a), MIDDLE - r * Math.cos(a)];
}

export function unproject(x: number, y: number): [number, number] {
  const dx = x - MIDDLE;
  const dy = MIDDLE - y;
  const r = Math.min(Math.hypot(dx, dy) / RADIUS, 1.05);
  const azimuth = ((Math.atan2(dx, dy) * 180) / Math.PI + 360) % 360;
  return [azimuth, 90 - (2 * Math.atan(r) * 180) / Math.PI];
}

/** Minutes after midnight at which the sun stands nearest to a point of the chart. */
export function nearestTime(day: Track, x: number, y: number): number {
  let best = 720;
  let least = Infinity;
  for (let i = 0; i + 1 < day.length; i++) {
    const a = day[i];
    const b = day[i + 1];
    if (!a || !b || a[1] < -9 || b[1] < -9) continue;
    const [ax, ay] = project(...a);
    const [bx, by] = project(...b);
    const length = (bx - ax) ** 2 + (by - ay) ** 2 || 1;
    const t = Math.min(Math.max(((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length, 0), 1);
    const d = Math.hypot(ax + t * (bx - ax) - x, ay + t * (by - ay) - y);
    if (d < least) {
      least = d;
      best = (i + t) * 10;
    }
  }
  return Math.round(best);
}

/** The sun of the day that is shown, every ten minutes. */
let today: Track = [];

export function setToday(day: Track) {
  today = day;
}

export const timeNear = (azimuth: number, elevation: number) =>
  nearestTime(today, ...project(azimuth, elevation));
