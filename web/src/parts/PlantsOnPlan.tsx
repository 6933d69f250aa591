import type { Stroke } from "../api/types";
import { usePlantings, usePlants } from "../state/plants";
import { type Lie, path, type Point } from "./SheetMarks";

const GREEN = "#7d9a4e";

/** What was planted, on the plan: areas under brushes less what was erased, rows as lines, single plants as dots. */
export function PlantsOnPlan({ lie, unit }: { lie: Lie; unit: number }) {
  const beds = usePlantings();
  const { stroke, tool, radius_m } = usePlants();
  const drawn: Stroke[] = stroke?.length
    ? [
        {
          kind: tool,
          points: stroke.flatMap((s) => (s.position ? [s.position] : [])),
          radius_m,
          on: "",
          normal: [0, 0, 1],
        },
      ]
    : [];
  const shown = Object.entries(beds).filter(([, p]) => p.on);
  return (
    <g pointerEvents="none" data-testid="plants-on-plan">
      {shown.map(([id, p]) => (
        <g key={id}>
          <title>{p.name}</title>
          <Strokes
            id={id}
            strokes={Object.entries(p.strokes)
              .sort(([a], [b]) => a.localeCompare(b))
              .map(([, s]) => s)}
            lie={lie}
            unit={unit}
          />
        </g>
      ))}
      <Strokes id="drawn" strokes={drawn} lie={lie} unit={unit} />
    </g>
  );
}

function Strokes(p: { id: string; strokes: Stroke[]; lie: Lie; unit: number }) {
  const flat = (s: Stroke) => s.points.map((q) => p.lie.flat(q as Point));
  const line = (s: Stroke, key: number, stroke: string, width: number) => {
    const points = flat(s);
    // A line of one point would not be drawn.
    const both = points.length === 1 && points[0] ? [points[0], points[0]] : points;
    return (
      <path
        key={key}
        d={path(both, false)}
        fill="none"
        stroke={stroke}
        strokeWidth={width}
        strokeLinecap="round"
        strokeLinejoin="round"
      />
    );
  };
  const reach = p.strokes.filter((s) => s.kind === "brush" || s.kind === "erase");
  return (
    <>
      {reach.length > 0 && (
        <>
          <mask
            id={`plants-${p.id}`}
            maskUnits="userSpaceOnUse"
            x={-1e4}
            y={-1e4}
            width={2e4}
            height={2e4}
          >
            {reach.map((s, i) => line(s, i, s.kind === "brush" ? "#fff" : "#000", s.radius_m * 2))}
          </mask>
          <g mask={`url(#plants-${p.id})`} opacity="0.35">
            {reach
              .filter((s) => s.kind === "brush")
              .map((s, i) => line(s, i, GREEN, s.radius_m * 2))}
          </g>
        </>
      )}
      {p.strokes.map((s, i) =>
        s.kind === "row" ? (
          line(s, i, GREEN, p.unit * 2.4)
        ) : s.kind === "one" ? (
          <g key={i} fill={GREEN}>
            {flat(s).map(([x, y], n) => (
              <circle key={n} cx={x} cy={-y} r={p.unit * 2.6} />
            ))}
          </g>
        ) : null,
      )}
    </>
  );
}
