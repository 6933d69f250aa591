import type { Luminaire } from "../api/types";

const MIDDLE = 50;
const REACH = 42;

/** A polar curve of luminous intensity in two planes: C 0–180 drawn full, C 90–270 dashed. */
export function Polar({ of, size = 108 }: { of: Luminaire; size?: number }) {
  const curve = (one: number[], other: number[]) => {
    const at = (share: number, index: number, side: 1 | -1) => {
      const gamma = (index * of.step_deg * Math.PI) / 180;
      const x = MIDDLE + side * share * REACH * Math.sin(gamma);
      const y = MIDDLE + share * REACH * Math.cos(gamma);
      return `${x.toFixed(1)} ${y.toFixed(1)}`;
    };
    const right = one.map((v, i) => at(v, i, 1));
    const left = other.map((v, i) => at(v, i, -1)).reverse();
    return `M${[...right, ...left].join("L")}Z`;
  };
  return (
    <svg
      viewBox="0 0 100 100"
      width={size}
      height={size}
      role="img"
      aria-label={`Polar curve of ${of.name}`}
    >
      <g fill="none" stroke="var(--ink-3)" strokeWidth="0.5">
        {[0.5, 1].map((r) => (
          <circle key={r} cx={MIDDLE} cy={MIDDLE} r={REACH * r} opacity="0.7" />
        ))}
        <path d={`M${MIDDLE} 4V96M4 ${MIDDLE}H96`} opacity="0.5" />
      </g>
      <path
        d={curve(of.curve["90"] ?? [], of.curve["270"] ?? [])}
        fill="none"
        stroke="var(--ink-2)"
        strokeWidth="0.9"
        strokeDasharray="3 2"
      />
      <path
        d={curve(of.curve["0"] ?? [], of.curve["180"] ?? [])}
        fill="var(--sun)"
        fillOpacity="0.16"
        stroke="var(--sun)"
        strokeWidth="1.2"
      />
    </svg>
  );
}
