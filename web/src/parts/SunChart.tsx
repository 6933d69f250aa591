import { memo, useMemo, useRef } from "react";
import type { Daylight, Fixture, Plan, Track } from "../api/types";
import { HeatMap } from "./HeatMap";
import { SkyRing } from "./SkyRing";
import { stepDone } from "../state/firstSteps";
import { MIDDLE, nearestTime, project, RADIUS, SIZE, unproject } from "../state/sunPath";
import { hold, release } from "../state/held";
import { useLookOf, useView } from "../state/look";
import { set, useStudio } from "../state/store";

/** The plan lies inside this circle, within the sun's path. */
const PLAN_RADIUS = 52;

/** An SVG path of the part of a track above a little below the horizon. */
function line(track: Track): string {
  let out = "";
  let pen = false;
  for (const [azimuth, elevation] of track) {
    if (elevation < -0.9) {
      pen = false;
      continue;
    }
    const [x, y] = project(azimuth, elevation);
    out += `${pen ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`;
    pen = true;
  }
  return out;
}

/** The sheet's drawing: the plan of the building with the sun's path around it. */
export function SunChart({ daylight, plan }: { daylight: Daylight; plan: Plan | null }) {
  const look = useLookOf("minutes", "sun", "sky");
  const facts = useStudio((s) => s.facts) ?? daylight.facts;
  const drawing = useRef<SVGSVGElement>(null);
  const dragging = useRef(false);
  if (!look) return null;
  const { chart } = daylight;
  // A sun below the horizon waits just outside the circle.
  const [sunX, sunY] = project(facts.azimuth_deg, Math.max(facts.elevation_deg, -2.5));
  const up = facts.elevation_deg > -0.9;
  const move = (clientX: number, clientY: number) => {
    const box = drawing.current?.getBoundingClientRect();
    if (!box) return;
    const x = ((clientX - box.left) / box.width) * SIZE;
    const y = ((clientY - box.top) / box.height) * SIZE;
    if (look.sun.mode === "time") hold({ look: { minutes: nearestTime(chart.day, x, y) } }, true);
    else {
      const [azimuth_deg, elevation_deg] = unproject(x, y);
      hold({ look: { sun: { azimuth_deg, elevation_deg } } }, true);
    }
  };
  return (
    <div className="relative w-full">
      {look.sky.model === "hdri" && look.sky.hdri.asset && <SkyRing hdri={look.sky.hdri} />}
      <ChartDrawing chart={chart} plan={plan} />
      <svg
        ref={drawing}
        viewBox={`0 0 ${SIZE} ${SIZE}`}
        className="pointer-events-none absolute inset-0 w-full touch-none select-none will-change-transform"
      >
        {up && (
          <line
            x1={sunX}
            y1={sunY}
            x2={MIDDLE}
            y2={MIDDLE}
            stroke="var(--sun)"
            strokeWidth="0.8"
            strokeDasharray="3 3"
          />
        )}
        <circle
          data-testid="sun-disc"
          cx={sunX}
          cy={sunY}
          r="7.5"
          fill={up ? "var(--sun)" : "var(--sheet)"}
          stroke="var(--sun)"
          strokeWidth="1.5"
          className="pointer-events-auto cursor-grab focus-visible:outline-none"
          tabIndex={0}
          role="slider"
          aria-label="Sun; arrow keys move it ten minutes"
          aria-valuenow={look.minutes}
          aria-valuetext={`azimuth ${facts.azimuth_deg.toFixed(0)} degrees, elevation ${facts.elevation_deg.toFixed(0)} degrees`}
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            dragging.current = true;
            set({ selected: "sun" });
          }}
          onPointerMove={(e) => dragging.current && move(e.clientX, e.clientY)}
          onPointerUp={() => {
            dragging.current = false;
            stepDone("sun");
            void release("Move the sun");
          }}
          onKeyDown={(e) => {
            const way =
              e.key === "ArrowRight" || e.key === "ArrowUp"
                ? 1
                : e.key === "ArrowLeft" || e.key === "ArrowDown"
                  ? -1
                  : 0;
            if (!way) return;
            e.preventDefault();
            if (look.sun.mode === "time")
              hold(
                { look: { minutes: Math.min(Math.max(look.minutes + way * 10, 0), 1440) } },
                false,
              );
            else
              hold(
                { look: { sun: { azimuth_deg: (look.sun.azimuth_deg + way * 2 + 360) % 360 } } },
                false,
              );
            void release("Move the sun");
          }}
        />
      </svg>
    </div>
  );
}

/** What stays while the sun is dragged: kept as one layer, so that it is not painted again. */
const ChartDrawing = memo(function ChartDrawing({
  chart,
  plan,
}: {
  chart: Daylight["chart"];
  plan: Plan | null;
}) {
  return (
    <svg
      viewBox={`0 0 ${SIZE} ${SIZE}`}
      className="relative w-full select-none will-change-transform"
      role="img"
      aria-label="Plan of the building with the path of the sun"
    >
      <g fill="none" stroke="var(--ink-3)" strokeWidth="0.6">
        <circle cx={MIDDLE} cy={MIDDLE} r={RADIUS} />
        {[30, 60].map((e) => (
          <circle
            key={e}
            cx={MIDDLE}
            cy={MIDDLE}
            r={RADIUS * Math.tan(((90 - e) / 2) * (Math.PI / 180))}
            opacity="0.5"
          />
        ))}
        {Array.from({ length: 36 }, (_, i) => {
          const a = (i * Math.PI) / 18;
          const outer = RADIUS + (i % 3 ? 2.5 : 5);
          return (
            <line
              key={i}
              x1={MIDDLE + RADIUS * Math.sin(a)}
              y1={MIDDLE - RADIUS * Math.cos(a)}
              x2={MIDDLE + outer * Math.sin(a)}
              y2={MIDDLE - outer * Math.cos(a)}
            />
          );
        })}
        <g opacity="0.55">
          {chart.hours.map((h, i) => (
            <path key={i} d={line(h)} />
          ))}
        </g>
        <path d={line(chart.longest)} opacity="0.9" />
        <path d={line(chart.shortest)} opacity="0.9" />
      </g>
      <g
        fontSize="9.5"
        fill="var(--ink-2)"
        textAnchor="middle"
        stroke="var(--sheet)"
        strokeWidth="2.5"
        paintOrder="stroke"
      >
        <text x={MIDDLE} y="9">
          N
        </text>
        <text x={MIDDLE} y="254">
          S
        </text>
        <text x="251" y={MIDDLE + 3}>
          E
        </text>
        <text x="6" y={MIDDLE + 3}>
          W
        </text>
      </g>
      {plan && <PlanDrawing plan={plan} />}
      <HeatMap project={project} />
      <path d={line(chart.day)} fill="none" stroke="var(--sun)" strokeWidth="1.8" />
    </svg>
  );
});

const path = (points: [number, number][], close: boolean) =>
  points.length ? `M${points.map(([x, y]) => `${x} ${-y}`).join("L")}${close ? "Z" : ""}` : "";

function PlanDrawing({ plan }: { plan: Plan }) {
  const north = useStudio((s) => s.project?.north_deg ?? 0);
  const sources = useStudio((s) => s.project?.sources);
  const selected = useStudio((s) => s.selected);
  const view = useView();
  const lines = useMemo(
    () => ({
      filled: plan.filled.map((p) => path(p, true)).join(""),
      open: plan.open.map((p) => path(p, false)).join(""),
      below: plan.below.map((p) => path(p, true)).join(""),
    }),
    [plan],
  );
  const middle = [(plan.low[0] + plan.high[0]) / 2, (plan.low[1] + plan.high[1]) / 2] as const;
  const half = Math.hypot(plan.high[0] - plan.low[0], plan.high[1] - plan.low[1]) / 2 || 1;
  const scale = PLAN_RADIUS / Math.min(half, 40);
  const thin = 0.6 / scale;
  const reach = (RADIUS - 10) / scale;
  const near = (x: number, y: number) => Math.hypot(x - middle[0], y - middle[1]) < reach;
  return (
    <g
      transform={`translate(${MIDDLE} ${MIDDLE}) rotate(${north}) scale(${scale}) translate(${-middle[0]} ${middle[1]})`}
    >
      <clipPath id="chart-circle">
        <circle cx={middle[0]} cy={-middle[1]} r={RADIUS / scale} />
      </clipPath>
      <g clipPath="url(#chart-circle)">
        <path d={lines.below} fill="none" stroke="var(--ink-3)" strokeWidth={thin * 0.8} />
        <path d={lines.filled} fill="var(--wall)" fillRule="evenodd" stroke="none" />
        <path d={lines.open} fill="none" stroke="var(--blue)" strokeWidth={thin * 2.6} />
        {sources?.map(
          (s) =>
            s.settings.kind === "fixture" &&
            (s.settings as Fixture).places
              .filter((p) => near(p.position[0], p.position[1]))
              .map((p, i) => (
                <circle
                  key={`${s.id}${i}`}
                  cx={p.position[0]}
                  cy={-p.position[1]}
                  r={thin * (s.id === selected ? 4 : 2.8)}
                  fill={s.id === selected ? "var(--sun)" : "var(--sheet)"}
                  stroke="var(--sun)"
                  strokeWidth={thin * 1.6}
                  className="cursor-pointer"
                  onClick={() => set({ selected: s.id, stage: "Fixtures" })}
                >
                  <title>{s.name}</title>
                </circle>
              )),
        )}
        {view && near(view.position[0], view.position[1]) && (
          <Camera
            position={view.position}
            target={view.target}
            lens={view.focal_length_mm}
            size={1 / scale}
          />
        )}
      </g>
    </g>
  );
}

function Camera(p: {
  position: [number, number, number];
  target: [number, number, number];
  lens: number;
  size: number;
}) {
  const [x, y] = p.position;
  const angle = Math.atan2(p.target[1] - y, p.target[0] - x);
  const half = Math.atan(18 / p.lens);
  const reach = 30 * p.size;
  const end = (a: number) => `${x + reach * Math.cos(a)} ${-(y + reach * Math.sin(a))}`;
  return (
    <g>
      <path
        d={`M${x} ${-y}L${end(angle - half)}L${end(angle + half)}Z`}
        fill="var(--blue)"
        opacity="0.16"
      />
      <circle cx={x} cy={-y} r={2.8 * p.size} fill="var(--blue)" />
    </g>
  );
}
