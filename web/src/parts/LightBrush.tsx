import { endPainting, paintTo, set, useHunt } from "../state/hunt";
import { useStudio } from "../state/store";

/** Where light is wanted in the picture and where none is; with the brush in the hand one paints on it. */
export function LightBrush({ aspect }: { aspect: number }) {
  const { score, strokes, brush, stroke } = useHunt();
  const here = useStudio((s) => s.stage === "Daylight");
  if (score !== "wanted" || !here) return null;
  const at = (e: React.PointerEvent): [number, number] => {
    const box = e.currentTarget.getBoundingClientRect();
    return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height];
  };
  const shown = stroke && brush ? [...strokes, { ...brush, points: stroke }] : strokes;
  return (
    <svg
      data-testid="light-brush"
      className={`absolute inset-0 h-full w-full touch-none ${brush ? "cursor-crosshair" : "pointer-events-none"}`}
      viewBox={`0 0 1 ${1 / aspect}`}
      preserveAspectRatio="none"
      onPointerDown={(e) => {
        if (!brush || e.button !== 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        set({ stroke: [] });
        paintTo(...at(e));
      }}
      onPointerMove={(e) => paintTo(...at(e))}
      onPointerUp={endPainting}
      onPointerCancel={() => set({ stroke: null })}
    >
      {shown.map((s, i) => {
        const points = s.points.map(([x, y]) => `${x} ${y / aspect}`);
        return (
          <path
            key={i}
            // A line of one point would not be drawn.
            d={`M${[points[0], ...points].join("L")}`}
            fill="none"
            stroke={s.wanted ? "#ffb347" : "#26324f"}
            strokeOpacity="0.5"
            strokeWidth={s.radius * 2}
            strokeLinecap="round"
            strokeLinejoin="round"
            pointerEvents="none"
          />
        );
      })}
    </svg>
  );
}
