import type { View } from "../api/types";

const GOLDEN = (Math.sqrt(5) - 1) / 2;

/** Composition guides, in shares of the picture: lines as [x1, y1, x2, y2]. */
export function guideLines(kind: View["guides"]): [number, number, number, number][] {
  const at = (a: number): [number, number, number, number][] => [
    [a, 0, a, 1],
    [1 - a, 0, 1 - a, 1],
    [0, a, 1, a],
    [0, 1 - a, 1, 1 - a],
  ];
  if (kind === "thirds") return at(1 / 3);
  if (kind === "golden") return at(1 - GOLDEN);
  if (kind === "centre")
    return [
      [0.5, 0, 0.5, 1],
      [0, 0.5, 1, 0.5],
    ];
  if (kind === "diagonals")
    return [
      [0, 0, 1, 1],
      [0, 1, 1, 0],
    ];
  return [];
}

/** The golden spiral in a unit square stretched over the picture, as quarter ellipses. */
export function spiral(): string {
  let [x, y, w, h] = [0, 0, 1, 1];
  let path = "M0 1";
  for (let i = 0; i < 9; i++) {
    const side = i % 4;
    const a = side % 2 === 0 ? w * GOLDEN : w;
    const b = side % 2 === 0 ? h : h * GOLDEN;
    if (side === 0) {
      path += `A${a} ${b} 0 0 1 ${x + a} ${y}`;
      x += a;
      w -= a;
    } else if (side === 1) {
      path += `A${a} ${b} 0 0 1 ${x + w} ${y + b}`;
      y += b;
      h -= b;
    } else if (side === 2) {
      path += `A${a} ${b} 0 0 1 ${x + w - a} ${y + h}`;
      w -= a;
    } else {
      path += `A${a} ${b} 0 0 1 ${x} ${y + h - b}`;
      h -= b;
    }
  }
  return path;
}

const MIRRORS = [
  "",
  "translate(1 0) scale(-1 1)",
  "translate(1 1) scale(-1 -1)",
  "translate(0 1) scale(1 -1)",
];

/** Guides drawn over the picture: white with a dark edge, so that they show on anything. */
export function Guides({ view }: { view: View }) {
  if (view.guides === "none") return null;
  return (
    <svg
      viewBox="0 0 1 1"
      preserveAspectRatio="none"
      className="absolute inset-0 h-full w-full"
      role="img"
      aria-label={`Guides: ${view.guides}`}
      data-testid="guides"
    >
      {["rgb(0 0 0 / 0.45)", "rgb(255 255 255 / 0.85)"].map((colour, i) => (
        <g
          key={colour}
          fill="none"
          stroke={colour}
          strokeWidth={i ? 1 : 2.6}
          vectorEffect="non-scaling-stroke"
        >
          {guideLines(view.guides).map(([x1, y1, x2, y2]) => (
            <line
              key={`${x1} ${y1} ${x2} ${y2}`}
              {...{ x1, y1, x2, y2 }}
              vectorEffect="non-scaling-stroke"
            />
          ))}
          {view.guides === "spiral" && (
            <path
              d={spiral()}
              transform={MIRRORS[view.guides_turn]}
              vectorEffect="non-scaling-stroke"
            />
          )}
          {view.guides === "safe" && (
            <>
              <rect x="0.05" y="0.05" width="0.9" height="0.9" vectorEffect="non-scaling-stroke" />
              <rect x="0.1" y="0.1" width="0.8" height="0.8" vectorEffect="non-scaling-stroke" />
            </>
          )}
        </g>
      ))}
    </svg>
  );
}
