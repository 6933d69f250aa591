import { useRef } from "react";

type Points = [number, number][];

interface CurveProps {
  points: Points;
  histogram: number[];
  colour: string;
  onHold: (points: Points) => void;
  onRelease: () => void;
}

const SIZE = 200;
const clamp = (v: number) => Math.min(Math.max(v, 0), 1);

/** Curve over the histogram: click adds a point, drag moves it, double click takes it off. */
export function Curve({ points, histogram, colour, onHold, onRelease }: CurveProps) {
  const box = useRef<SVGSVGElement>(null);
  const dragged = useRef<{ index: number; now: Points } | null>(null);
  const all: Points = [
    ...(points.some((p) => p[0] === 0) ? [] : [[0, 0] as [number, number]]),
    ...points,
    ...(points.some((p) => p[0] === 1) ? [] : [[1, 1] as [number, number]]),
  ].sort((a, b) => a[0] - b[0]);
  const at = (e: React.PointerEvent): [number, number] => {
    const r = box.current?.getBoundingClientRect();
    if (!r) return [0, 0];
    return [clamp((e.clientX - r.left) / r.width), clamp(1 - (e.clientY - r.top) / r.height)];
  };
  const begin = (e: React.PointerEvent, index: number | null) => {
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    const now: Points = index === null ? [...points, at(e)] : [...points];
    dragged.current = { index: index ?? now.length - 1, now };
    onHold(now);
  };
  const top = Math.max(...histogram.slice(1, -1), 1);
  const bars = histogram.map((v, i) => {
    const height = Math.min(Math.sqrt(v / top), 1) * SIZE * 0.8;
    return `${(i / (histogram.length - 1)) * SIZE},${SIZE - height}`;
  });
  return (
    <svg
      ref={box}
      viewBox={`0 0 ${SIZE} ${SIZE}`}
      className="mt-1 aspect-square w-full touch-none border border-rule"
      role="img"
      aria-label="Curve: click adds a point, drag moves it, double click takes it off"
      onPointerDown={(e) => begin(e, null)}
      onPointerMove={(e) => {
        const d = dragged.current;
        if (!d) return;
        d.now = d.now.map((p, i) => (i === d.index ? at(e) : p));
        onHold(d.now);
      }}
      onPointerUp={() => {
        if (dragged.current) onRelease();
        dragged.current = null;
      }}
    >
      <polygon points={`0,${SIZE} ${bars.join(" ")} ${SIZE},${SIZE}`} className="fill-ink-3/25" />
      <path
        d={`M0 ${SIZE}L${SIZE} 0M${SIZE / 2} 0V${SIZE}M0 ${SIZE / 2}H${SIZE}`}
        className="stroke-rule"
        strokeWidth="0.7"
      />
      <path d={smooth(all)} fill="none" stroke={colour} strokeWidth="1.6" />
      {points.map(([x, y], i) => (
        <circle
          key={i}
          cx={x * SIZE}
          cy={(1 - y) * SIZE}
          r="4.5"
          fill="var(--sheet)"
          stroke={colour}
          strokeWidth="1.5"
          className="cursor-move"
          onPointerDown={(e) => begin(e, i)}
          onDoubleClick={(e) => {
            e.stopPropagation();
            onHold(points.filter((_, k) => k !== i));
            onRelease();
          }}
        />
      ))}
    </svg>
  );
}

/** A drawn line through points that never overshoots: the engine's curve has the same shape. */
function smooth(points: Points): string {
  const n = points.length;
  const slopes = points.slice(1).map((p, i) => {
    const [x, y] = points[i] ?? [0, 0];
    return (p[1] - y) / Math.max(p[0] - x, 1e-4);
  });
  const tangent = points.map((_, i) => {
    const a = slopes[i - 1] ?? slopes[0] ?? 1;
    const b = slopes[i] ?? slopes[n - 2] ?? 1;
    return a * b <= 0 ? 0 : (2 * a * b) / (a + b);
  });
  const put = (x: number, y: number) => `${(x * SIZE).toFixed(1)} ${((1 - y) * SIZE).toFixed(1)}`;
  return points
    .map(([x, y], i) => {
      if (i === 0) return `M${put(x, y)}`;
      const [px, py] = points[i - 1] ?? [0, 0];
      const third = (x - px) / 3;
      const first = put(px + third, py + third * (tangent[i - 1] ?? 1));
      const second = put(x - third, y - third * (tangent[i] ?? 1));
      return `C${first} ${second} ${put(x, y)}`;
    })
    .join("");
}
