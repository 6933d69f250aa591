import { beginStroke, endStroke, giveUpStroke, hover, usePlants } from "../state/plants";

const outline = (ring: [number, number][]) =>
  ring.length ? `M${ring.map(([x, y]) => `${x} ${y}`).join("L")}Z` : "";

/** A hand that plants in the picture: the reach of its brush as it lies on the ground, and the stroke so far. */
export function PlantHand() {
  const under = usePlants((s) => s.under);
  const stroke = usePlants((s) => s.stroke);
  const tool = usePlants((s) => s.tool);
  const at = (e: React.PointerEvent) => {
    const box = e.currentTarget.getBoundingClientRect();
    return { x: (e.clientX - box.left) / box.width, y: (e.clientY - box.top) / box.height };
  };
  const wide = tool === "brush" || tool === "erase";
  return (
    <svg
      data-testid="plant-hand"
      className="absolute inset-0 h-full w-full cursor-crosshair touch-none"
      viewBox="0 0 1 1"
      preserveAspectRatio="none"
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        beginStroke(at(e));
      }}
      onPointerMove={(e) => hover(at(e))}
      onPointerUp={(e) => stroke && void endStroke(at(e))}
      onPointerCancel={giveUpStroke}
      onPointerLeave={() => !stroke && giveUpStroke()}
    >
      <g fill={tool === "erase" ? "#fff" : "#8fbf4d"} opacity="0.4" pointerEvents="none">
        {stroke?.map((s, i) => (
          <path key={i} d={outline(wide ? s.ring : small(s.ring))} />
        ))}
      </g>
      {under && (
        <path
          d={outline(wide ? under.ring : small(under.ring))}
          fill="none"
          stroke="#fff"
          strokeWidth="1.5"
          vectorEffect="non-scaling-stroke"
          pointerEvents="none"
        />
      )}
    </svg>
  );
}

/** Shares of a reach that the mark of a single plant takes. */
const MARK = 0.15;

/** A small ring in the middle of a large one. */
function small(ring: [number, number][]): [number, number][] {
  const n = ring.length || 1;
  const x = ring.reduce((sum, p) => sum + p[0], 0) / n;
  const y = ring.reduce((sum, p) => sum + p[1], 0) / n;
  return ring.map((p) => [x + (p[0] - x) * MARK, y + (p[1] - y) * MARK]);
}
