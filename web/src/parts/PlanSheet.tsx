import { useQuery } from "@tanstack/react-query";
import { aimOnPlan, useHunt } from "../state/hunt";
import { pickOnPlan, placeOnPlan } from "../state/pickFor";
import { useEffect, useMemo, useRef, useState } from "react";
import { answer, api } from "../api/client";
import type { Plan, View } from "../api/types";
import { useView } from "../state/look";
import { set, useStudio } from "../state/store";
import { Amount } from "../ui/Amount";
import { Choice } from "../ui/Choice";
import { Dimensions } from "./Dimensions";
import { North, ScaleBar, Up } from "./SheetArrows";
import { Eye, type Flat, Lamps, type Lie, MovedThings, path, Portals, Things } from "./SheetMarks";
import { standing } from "../state/moved";
import { LightOverPlan, LightPlanControls } from "./LightPlan";
import { PlantsOnPlan } from "./PlantsOnPlan";
import { type At, beginStroke, endStroke, hover } from "../state/plants";
import type { Picking } from "../state/store/hand";
import { metres } from "./words";

/** Side of the drawing in its own units; lines are drawn in these, whatever the zoom. */
const SIZE = 256;
const LOOKING = { north: 90, east: 0, south: -90, west: 180 } as const;
type Way = keyof typeof LOOKING | "line";

type Point = [number, number, number];

const PLAN: Lie = {
  flat: ([x, y]) => [x, y],
  moved: ([, , z], [x, y]) => [x, y, z],
};

/** Which way of the building lies to the right of a section. */
function sectionRight(looking: number): Flat {
  const a = (looking * Math.PI) / 180;
  return [Math.sin(a), -Math.cos(a)];
}

function sectionOf(looking: number, through: Flat): Lie {
  const right = sectionRight(looking);
  const along = ([x, y]: Point) => (x - through[0]) * right[0] + (y - through[1]) * right[1];
  return {
    flat: (p) => [along(p), p[2]],
    moved: (p, [u, z]) => {
      const d = u - along(p);
      return [p[0] + right[0] * d, p[1] + right[1] * d, z];
    },
  };
}

/** What is picked of the building, on the plan as well as in the picture. */
const PARTS: Picking[] = ["part", "move part", "copy part", "room"];

/** The building as a drawing one works on: cut level or upright, zoomed, with things to drag. */
export function PlanSheet({ kind }: { kind: "plan" | "section" }) {
  const project = useStudio((s) => s.project);
  const view = useView();
  const [chosenHeight, setHeight] = useState<number | null>(null);
  const [way, setWay] = useState<Way>("line");
  const [through, setThrough] = useState(0);
  const line = useStudio((s) => s.sectionLine);
  const drawing = useStudio((s) => s.drawingLine);
  const chosen = way === "line" && !line ? "north" : way;
  const looking = chosen === "line" ? (line?.looking ?? 90) : LOOKING[chosen];
  const across = (looking * Math.PI) / 180;
  // A line drawn on the plan is moved along the way one looks, the others along their axis.
  const at: Flat =
    chosen === "line" && line
      ? [line.x + through * Math.cos(across), line.y + through * Math.sin(across)]
      : chosen === "north" || chosen === "south"
        ? [0, through]
        : [through, 0];
  const model = project?.models[0];
  const stood = model && standing(model.id, model.settings);
  const params = { path: { project: project?.id ?? "" } };
  const [x = 0, y = 0, z = 0] = view?.position ?? [];
  // Where the camera is decides what is shown at first. A camera that is dragged does not drag the drawing along: only its
  // storey counts, where no height was chosen.
  const eye = { eye_x: x, eye_y: y, eye_z: z };
  const levelAt = chosenHeight ?? `storey at ${z.toFixed(1)}`;
  const cut = useQuery({
    queryKey: ["cut", project?.id, stood, kind, kind === "plan" ? levelAt : [looking, at]],
    queryFn: () =>
      kind === "plan"
        ? answer(
            api.GET("/api/projects/{project}/plan", {
              params: { ...params, query: { height: chosenHeight, ...eye } },
            }),
          )
        : answer(
            api.GET("/api/projects/{project}/section", {
              params: { ...params, query: { x: at[0], y: at[1], looking, ...eye } },
            }),
          ),
    enabled: !!model,
    staleTime: Infinity,
    placeholderData: (old) => old,
  });
  if (!project || !view) return null;
  const level = kind === "plan";
  const usual = cut.data?.usual_m ?? 1.2;
  const height = chosenHeight ?? cut.data?.height_m ?? usual;
  return (
    <>
      <Drawing
        key={`${kind}${level ? "" : looking}`}
        cut={cut.data ?? null}
        lie={level ? PLAN : sectionOf(looking, at)}
        level={level}
        north={level ? project.north_deg : 0}
        right={level ? null : sectionRight(looking)}
        view={view}
      />
      {level && (
        <button
          className="quiet self-start text-small underline"
          aria-pressed={drawing}
          onClick={() => set({ drawingLine: !drawing })}
        >
          {drawing ? "Draw the line on the plan …" : "Section along a line"}
        </button>
      )}
      {level ? (
        <>
          <Amount
            label="Cut at"
            value={height}
            min={0.1}
            max={Math.max(8, Math.ceil(usual + 4))}
            anywhere
            step={0.05}
            normal={usual}
            write={metres}
            onHold={setHeight}
            onRelease={setHeight}
          />
          <LightPlanControls />
        </>
      ) : (
        <>
          <Choice
            label="Looking"
            value={chosen}
            options={[...Object.keys(LOOKING), ...(line ? ["line"] : [])].map((w) => ({
              value: w as Way,
              label: w,
            }))}
            onChoose={setWay}
          />
          <Amount
            label="Cut at"
            value={through}
            min={-12}
            max={12}
            step={0.1}
            normal={0}
            write={metres}
            onHold={setThrough}
            onRelease={setThrough}
          />
        </>
      )}
    </>
  );
}

/** Turn the sheet into a section along a line of the plan, looking to its left. */
function cutAlong([ax, ay]: Flat, [bx, by]: Flat) {
  const looking = (Math.atan2(bx - ax, -(by - ay)) * 180) / Math.PI;
  const middle = { x: (ax + bx) / 2, y: (ay + by) / 2 };
  set({ sectionLine: { ...middle, looking }, drawingLine: false, sheet: "section" });
}

interface Window {
  x: number;
  y: number;
  /** Metres across the sheet. */
  span: number;
}

function Drawing(p: {
  cut: Plan | null;
  lie: Lie;
  level: boolean;
  north: number;
  /** To the right of a section; null on a plan. */
  right: Flat | null;
  view: View;
}) {
  const { cut, lie, level } = p;
  const drawing = useRef<SVGSVGElement>(null);
  const [shown, setShown] = useState<Window | null>(null);
  const [over, setOver] = useState<Flat | null>(null);
  const drawn = useStudio((s) => s.drawingLine);
  const aiming = useHunt((s) => s.aiming === "patch");
  const picking = useStudio((s) => (s.picking && PARTS.includes(s.picking) ? s.picking : null));
  const placing = useStudio((s) => s.placing !== null);
  const planting = useStudio((s) => s.picking === "plant");
  const [from, setFrom] = useState<Flat | null>(null);
  const drag = useRef<{ x: number; y: number; from: Window } | null>(null);
  const fit: Window = cut?.shown ?? { x: 0, y: 0, span: 20 };
  const w = shown ?? fit;
  const unit = w.span / SIZE;
  const lines = useMemo(
    () => ({
      filled: cut?.filled.map((q) => path(q as Flat[], true)).join("") ?? "",
      open: cut?.open.map((q) => path(q as Flat[], false)).join("") ?? "",
      below: cut?.below.map((q) => path(q as Flat[], true)).join("") ?? "",
    }),
    [cut],
  );
  /** Place on the sheet, in metres, of a point of the screen. */
  const placeOf = (x: number, y: number, from = w): Flat => {
    const box = drawing.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    return [
      from.x + ((x - box.left) / box.width - 0.5) * from.span,
      from.y - ((y - box.top) / box.height - 0.5) * from.span,
    ];
  };
  const onPlan = (e: React.PointerEvent): At => {
    const [x, y] = placeOf(e.clientX, e.clientY);
    return { place: [x, y, cut?.height_m ?? 1.2] };
  };
  // React listens to the wheel passively; the page must not scroll under the drawing.
  const zoom = useRef<(e: WheelEvent) => void>(undefined);
  zoom.current = (e) => {
    e.preventDefault();
    const [mx, my] = placeOf(e.clientX, e.clientY);
    const k = Math.exp(e.deltaY * 0.0015);
    const span = Math.min(Math.max(w.span * k, 1), 400);
    const f = span / w.span;
    setShown({ x: mx + (w.x - mx) * f, y: my + (w.y - my) * f, span });
  };
  useEffect(() => {
    const element = drawing.current;
    const listen = (e: WheelEvent) => zoom.current?.(e);
    element?.addEventListener("wheel", listen, { passive: false });
    return () => element?.removeEventListener("wheel", listen);
  }, []);
  return (
    <div className="relative mb-1">
      <svg
        ref={drawing}
        data-testid="plan-sheet"
        viewBox={`${w.x - w.span / 2} ${-w.y - w.span / 2} ${w.span} ${w.span}`}
        className={`w-full touch-none border border-rule select-none ${drawn || ((aiming || picking || placing || planting) && level) ? "cursor-crosshair" : "cursor-grab"}`}
        role="img"
        aria-label={level ? "Plan of the building" : "Section of the building"}
        aria-busy={!cut}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          if (planting && level) {
            beginStroke(onPlan(e));
            return;
          }
          if (drawn) {
            setFrom(placeOf(e.clientX, e.clientY));
            return;
          }
          drag.current = { x: e.clientX, y: e.clientY, from: w };
        }}
        onPointerMove={(e) => {
          const d = drag.current;
          if (planting && level) hover(onPlan(e));
          if (!d) {
            setOver(placeOf(e.clientX, e.clientY));
            return;
          }
          const [ax, ay] = placeOf(d.x, d.y, d.from);
          const [bx, by] = placeOf(e.clientX, e.clientY, d.from);
          setShown({ ...d.from, x: d.from.x - (bx - ax), y: d.from.y - (by - ay) });
        }}
        onPointerLeave={() => setOver(null)}
        onPointerUp={(e) => {
          const still = drag.current;
          drag.current = null;
          if (planting && level) {
            void endStroke(onPlan(e));
            return;
          }
          if (
            (aiming || picking || placing) &&
            level &&
            cut &&
            still &&
            Math.hypot(e.clientX - still.x, e.clientY - still.y) < 4
          ) {
            const [x, y] = placeOf(e.clientX, e.clientY);
            if (placing) void placeOnPlan([x, y, cut.height_m], e.altKey);
            else if (picking) void pickOnPlan([x, y, cut.height_m], picking);
            else void aimOnPlan([x, y, cut.height_m]);
          }
          if (!from) return;
          const to = placeOf(e.clientX, e.clientY);
          setFrom(null);
          if (Math.hypot(to[0] - from[0], to[1] - from[1]) > 0.2) cutAlong(from, to);
        }}
        onDoubleClick={() => setShown(null)}
      >
        <path d={lines.below} fill="none" stroke="var(--ink-3)" strokeWidth={unit * 0.5} />
        <path d={lines.filled} fill="var(--wall)" fillRule="evenodd" stroke="none" />
        <path d={lines.open} fill="none" stroke="var(--blue)" strokeWidth={unit * 1.4} />
        {level && <PlantsOnPlan lie={lie} unit={unit} />}
        {level && <LightOverPlan lie={lie} unit={unit} />}
        <Portals lie={lie} unit={unit} />
        <Things lie={lie} unit={unit} level={level} placeOf={placeOf} />
        <MovedThings lie={lie} unit={unit} level={level} placeOf={placeOf} />
        <Lamps lie={lie} unit={unit} placeOf={placeOf} />
        {over && !from && <Dimensions cut={cut} at={over} unit={unit} />}
        {from && over && (
          <path
            d={path([from, over], false)}
            stroke="var(--ink)"
            strokeWidth={unit * 1.2}
            strokeDasharray={`${unit * 8} ${unit * 2} ${unit * 2} ${unit * 2}`}
          />
        )}
        <Eye view={p.view} lie={lie} unit={unit} level={level} placeOf={placeOf} />
      </svg>
      {!cut && (
        <p className="pointer-events-none absolute inset-x-0 top-1/2 text-center text-ink-2">
          Cutting the building …
        </p>
      )}
      <ScaleBar span={w.span}>
        {p.right ? <Up right={p.right} /> : <North degrees={p.north} />}
      </ScaleBar>
      {shown && (
        <button
          className="quiet absolute top-1 right-1 bg-sheet px-1 text-small underline"
          onClick={() => setShown(null)}
        >
          Fit
        </button>
      )}
    </div>
  );
}
