import { useMemo } from "react";
import type { Plan } from "../api/types";

type Flat = [number, number];

/** Clear distances across the cut through the place under the cursor, wall to wall. */
export function Dimensions(p: { cut: Plan | null; at: Flat; unit: number }) {
  const { cut, unit } = p;
  const edges = useMemo(() => {
    const out: [Flat, Flat][] = [];
    for (const q of cut?.filled ?? [])
      q.forEach((a, i) => out.push([a as Flat, q[(i + 1) % q.length] as Flat]));
    return out;
  }, [cut]);
  /** Next edges before and after the place along an axis: 0 across the sheet, 1 up it. */
  const between = (axis: 0 | 1): Flat | null => {
    const other = axis === 0 ? 1 : 0;
    let [low, high] = [-Infinity, Infinity];
    for (const [a, b] of edges) {
      const [s, t] = [a[other] - p.at[other], b[other] - p.at[other]];
      if (s === t || s > 0 === t > 0) continue;
      const where = a[axis] + ((b[axis] - a[axis]) * s) / (s - t);
      if (where <= p.at[axis]) low = Math.max(low, where);
      else high = Math.min(high, where);
    }
    return Number.isFinite(low) && Number.isFinite(high) ? [low, high] : null;
  };
  const [x, y] = p.at;
  const across = between(0);
  const up = between(1);
  const tick = unit * 3;
  const text = (v: Flat) => `${(v[1] - v[0]).toFixed(2)} m`;
  const halo = { stroke: "var(--sheet)", strokeWidth: unit * 3, paintOrder: "stroke" as const };
  return (
    <g
      pointerEvents="none"
      stroke="var(--ink-2)"
      strokeWidth={unit * 0.7}
      fontSize={unit * 9}
      data-testid="dimensions"
    >
      {across && (
        <>
          <path
            d={`M${across[0]} ${-y - tick}v${2 * tick}M${across[0]} ${-y}H${across[1]}M${across[1]} ${-y - tick}v${2 * tick}`}
          />
          <text
            x={(across[0] + across[1]) / 2}
            y={-y - unit * 3}
            textAnchor="middle"
            fill="var(--ink)"
            {...halo}
          >
            {text(across)}
          </text>
        </>
      )}
      {up && (
        <>
          <path
            d={`M${x - tick} ${-up[0]}h${2 * tick}M${x} ${-up[0]}V${-up[1]}M${x - tick} ${-up[1]}h${2 * tick}`}
          />
          <text x={x + unit * 4} y={-(up[0] + up[1]) / 2} fill="var(--ink)" {...halo}>
            {text(up)}
          </text>
        </>
      )}
    </g>
  );
}
