import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { answer, api } from "../api/client";
import type { Fixture, Plan, View } from "../api/types";
import { editModel, hold, merge, release, set, useStudio, useView, viewRow } from "../state/studio";
import { Amount } from "./Amount";
import { Choice } from "./Choice";
import { useOpenings } from "./Openings";
import { metres } from "./words";

type Point = [number, number, number];
type Flat = [number, number];

/** Side of the drawing in its own units; lines are drawn in these, whatever the zoom. */
const SIZE = 256;
const LOOKING = { north: 90, east: 0, south: -90, west: 180 } as const;
type Way = keyof typeof LOOKING;

/** How points of the building lie on the sheet, and back. */
interface Lie {
  flat: (p: Point) => Flat;
  /** A point of the building moved to a place of the sheet; what the sheet does not show stays. */
  moved: (p: Point, to: Flat) => Point;
}

const PLAN: Lie = {
  flat: ([x, y]) => [x, y],
  moved: ([, , z], [x, y]) => [x, y, z],
};

function sectionOf(way: Way, through: Flat): Lie {
  const a = (LOOKING[way] * Math.PI) / 180;
  const right: Flat = [Math.sin(a), -Math.cos(a)];
  const along = ([x, y]: Point) => (x - through[0]) * right[0] + (y - through[1]) * right[1];
  return {
    flat: (p) => [along(p), p[2]],
    moved: (p, [u, z]) => {
      const d = u - along(p);
      return [p[0] + right[0] * d, p[1] + right[1] * d, z];
    },
  };
}

const path = (points: Flat[], close: boolean) =>
  points.length ? `M${points.map(([x, y]) => `${x} ${-y}`).join("L")}${close ? "Z" : ""}` : "";

/** The building as a drawing one works on: cut level or upright, zoomed, with things to drag. */
export function PlanSheet({ kind }: { kind: "plan" | "section" }) {
  const project = useStudio((s) => s.project);
  const view = useView();
  const [height, setHeight] = useState(1.2);
  const [way, setWay] = useState<Way>("north");
  const [through, setThrough] = useState(0);
  const at: Flat = way === "north" || way === "south" ? [0, through] : [through, 0];
  const model = project?.models[0]?.id;
  const params = { path: { project: project?.id ?? "" } };
  const cut = useQuery({
    queryKey: ["cut", project?.id, model, kind, kind === "plan" ? height : [way, through]],
    queryFn: () =>
      kind === "plan"
        ? answer(
            api.GET("/api/projects/{project}/plan", { params: { ...params, query: { height } } }),
          )
        : answer(
            api.GET("/api/projects/{project}/section", {
              params: { ...params, query: { x: at[0], y: at[1], looking: LOOKING[way] } },
            }),
          ),
    enabled: !!model,
    staleTime: Infinity,
    placeholderData: (old) => old,
  });
  if (!project || !view) return null;
  const level = kind === "plan";
  return (
    <>
      <Drawing
        key={`${kind}${level ? "" : way}`}
        cut={cut.data ?? null}
        lie={level ? PLAN : sectionOf(way, at)}
        level={level}
        north={level ? project.north_deg : 0}
        view={view}
      />
      {level ? (
        <Amount
          label="Cut at"
          value={height}
          min={0.1}
          max={8}
          step={0.05}
          normal={1.2}
          write={metres}
          onHold={setHeight}
          onRelease={setHeight}
        />
      ) : (
        <>
          <Choice
            label="Looking"
            value={way}
            options={(Object.keys(LOOKING) as Way[]).map((w) => ({ value: w, label: w }))}
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

interface Window {
  x: number;
  y: number;
  /** Metres across the sheet. */
  span: number;
}

function Drawing(p: { cut: Plan | null; lie: Lie; level: boolean; north: number; view: View }) {
  const { cut, lie, level } = p;
  const drawing = useRef<SVGSVGElement>(null);
  const [shown, setShown] = useState<Window | null>(null);
  const drag = useRef<{ x: number; y: number; from: Window } | null>(null);
  const fit = useMemo<Window>(() => {
    if (!cut) return { x: 0, y: 0, span: 20 };
    const [x0, y0] = cut.low;
    const [x1, y1] = cut.high;
    return { x: (x0 + x1) / 2, y: (y0 + y1) / 2, span: Math.max(x1 - x0, y1 - y0) * 1.16 };
  }, [cut]);
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
        className="w-full cursor-grab touch-none border border-rule select-none"
        role="img"
        aria-label={level ? "Plan of the building" : "Section of the building"}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          drag.current = { x: e.clientX, y: e.clientY, from: w };
        }}
        onPointerMove={(e) => {
          const d = drag.current;
          if (!d) return;
          const [ax, ay] = placeOf(d.x, d.y, d.from);
          const [bx, by] = placeOf(e.clientX, e.clientY, d.from);
          setShown({ ...d.from, x: d.from.x - (bx - ax), y: d.from.y - (by - ay) });
        }}
        onPointerUp={() => (drag.current = null)}
        onDoubleClick={() => setShown(null)}
      >
        <path d={lines.below} fill="none" stroke="var(--ink-3)" strokeWidth={unit * 0.5} />
        <path d={lines.filled} fill="var(--wall)" fillRule="evenodd" stroke="none" />
        <path d={lines.open} fill="none" stroke="var(--blue)" strokeWidth={unit * 1.4} />
        <Portals lie={lie} unit={unit} />
        <Things lie={lie} unit={unit} level={level} placeOf={placeOf} />
        <Lamps lie={lie} unit={unit} placeOf={placeOf} />
        <Eye view={p.view} lie={lie} unit={unit} level={level} placeOf={placeOf} />
      </svg>
      <ScaleBar span={w.span} north={level ? p.north : null} />
      {shown && (
        <button
          className="quiet absolute top-1 right-1 bg-sheet px-1 text-[11.5px] underline"
          onClick={() => setShown(null)}
        >
          Fit
        </button>
      )}
    </div>
  );
}

/** A bar of a round number of metres, and where north is. */
function ScaleBar({ span, north }: { span: number; north: number | null }) {
  const round = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].findLast((m) => m < span / 3) ?? 0.1;
  return (
    <div className="pointer-events-none absolute inset-x-2 bottom-1 flex items-end justify-between text-[10.5px] text-ink-2">
      <span
        className="border-b border-ink-2 text-center"
        style={{ width: `${(round / span) * 100}%` }}
      >
        {round} m
      </span>
      {north !== null && (
        <svg width="20" height="24" viewBox="-10 -12 20 24" aria-label="North">
          <g transform={`rotate(${-north})`} stroke="var(--ink-2)" fill="none">
            <path d="M0 8V-4M-2.5 -1L0 -5L2.5 -1" />
            <text y="-6" fontSize="7" textAnchor="middle" fill="var(--ink-2)" stroke="none">
              N
            </text>
          </g>
        </svg>
      )}
    </div>
  );
}

type PlaceOf = (x: number, y: number) => Flat;

/** Props of something on the sheet that a hand can take and move. */
function handle(placeOf: PlaceOf, onMove: (to: Flat) => void, onEnd: () => void) {
  return {
    className: "cursor-move",
    onPointerDown: (e: React.PointerEvent) => {
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
    },
    onPointerMove: (e: React.PointerEvent) =>
      e.currentTarget.hasPointerCapture(e.pointerId) && onMove(placeOf(e.clientX, e.clientY)),
    onPointerUp: (e: React.PointerEvent) => {
      e.stopPropagation();
      onEnd();
    },
    onDoubleClick: (e: React.MouseEvent) => e.stopPropagation(),
  };
}

/** A point and a way from it. */
const added = ([x, y, z]: Point, [a, b, c]: Point, k: number): Point => [
  x + a * k,
  y + b * k,
  z + c * k,
];

const near = (v: number) => Math.round(v * 100) / 100;
const rounded = ([x, y, z]: Point): Point => [near(x), near(y), near(z)];

/** The camera: its place and what it looks at, both to drag. */
function Eye(p: { view: View; lie: Lie; unit: number; level: boolean; placeOf: PlaceOf }) {
  const { view, lie, unit } = p;
  const name = useStudio((s) => viewRow(s)?.name ?? "");
  const position = view.position as Point;
  const target = view.target as Point;
  const [x, y] = lie.flat(position);
  const [tx, ty] = lie.flat(target);
  const angle = Math.atan2(ty - y, tx - x);
  const half = Math.atan(18 / view.focal_length_mm / (p.level ? 1 : view.aspect));
  const reach = Math.max(Math.hypot(tx - x, ty - y), unit * 20);
  const end = (a: number) => `${x + reach * Math.cos(a)} ${-(y + reach * Math.sin(a))}`;
  const done = () => void release(`Move ${name}`);
  const both = handle(
    p.placeOf,
    (to) => hold({ view: { position: rounded(lie.moved(position, to)) } }, true),
    done,
  );
  const aim = handle(
    p.placeOf,
    (to) => hold({ view: { target: rounded(lie.moved(target, to)) } }, true),
    done,
  );
  return (
    <g>
      <path
        d={`M${x} ${-y}L${end(angle - half)}L${end(angle + half)}Z`}
        fill="var(--blue)"
        opacity="0.14"
        pointerEvents="none"
      />
      <path
        d={`M${x} ${-y}L${tx} ${-ty}`}
        stroke="var(--blue)"
        strokeWidth={unit * 0.7}
        strokeDasharray={`${unit * 3} ${unit * 3}`}
        pointerEvents="none"
      />
      <circle {...both} cx={x} cy={-y} r={unit * 5} fill="var(--blue)">
        <title>{name}: drag to move the camera</title>
      </circle>
      <g {...aim}>
        <circle cx={tx} cy={-ty} r={unit * 6} fill="transparent" />
        <path
          d={`M${tx - unit * 4} ${-ty}h${unit * 8}M${tx} ${-ty - unit * 4}v${unit * 8}`}
          stroke="var(--blue)"
          strokeWidth={unit * 1.4}
        >
          <title>What it looks at: drag to turn the camera</title>
        </path>
      </g>
    </g>
  );
}

/** Fixtures, each copy to drag by itself. */
function Lamps({ lie, unit, placeOf }: { lie: Lie; unit: number; placeOf: PlaceOf }) {
  const sources = useStudio((s) => s.project?.sources);
  const held = useStudio((s) => s.held?.sources);
  const selected = useStudio((s) => s.selected);
  return sources?.map((s) => {
    if (s.settings.kind !== "fixture") return null;
    const fixture = merge(s.settings as Fixture, held?.[s.id] ?? {});
    return fixture.places.map((place, i) => {
      const [x, y] = lie.flat(place.position as Point);
      const move = (to: Flat) => {
        const places = fixture.places.map((q, k) =>
          k === i ? { ...q, position: rounded(lie.moved(q.position as Point, to)) } : q,
        );
        set({ selected: s.id });
        hold({ sources: { [s.id]: { places } } }, true);
      };
      return (
        <circle
          key={`${s.id}${i}`}
          {...handle(placeOf, move, () => {
            set({ selected: s.id });
            void release(`Move ${s.name}`);
          })}
          cx={x}
          cy={-y}
          r={unit * (s.id === selected ? 4.5 : 3.4)}
          fill={s.id === selected ? "var(--sun)" : "var(--sheet)"}
          stroke="var(--sun)"
          strokeWidth={unit * 1.6}
        >
          <title>{s.name}</title>
        </circle>
      );
    });
  });
}

/** Openings that light is drawn through: a line on the plan, an outline in the section. */
function Portals({ lie, unit }: { lie: Lie; unit: number }) {
  const edits = useStudio((s) => s.project?.models[0]?.settings.edits);
  const found = useOpenings();
  const all = [
    ...(found.data ?? []).filter((o) => edits?.openings[o.name]?.on ?? true),
    ...(edits?.added_openings ?? []),
  ];
  return all.map((o) => {
    const [nx, ny, nz] = o.inward as Point;
    const flatRoof = Math.abs(nz) > 0.9;
    const l = Math.hypot(nx, ny) || 1;
    const u: Point = flatRoof ? [1, 0, 0] : [-ny / l, nx / l, 0];
    const v: Point = flatRoof ? [0, 1, 0] : [-(nx / l) * nz, -(ny / l) * nz, l];
    const corner = (a: number, b: number) =>
      lie.flat(added(added(o.position, u, a * o.width), v, b * o.height));
    const around = [corner(-0.5, -0.5), corner(0.5, -0.5), corner(0.5, 0.5), corner(-0.5, 0.5)];
    const [mx, my] = lie.flat(o.position);
    const [ix, iy] = lie.flat(added(o.position, o.inward, 1));
    const length = Math.hypot(ix - mx, iy - my);
    const k = length > 0.2 ? (unit * 9) / length : 0;
    return (
      <g key={o.name} stroke="var(--blue)" fill="none" strokeWidth={unit * 1.6}>
        <path d={path(around, true)} fill="var(--blue)" fillOpacity="0.12" />
        <path d={`M${mx} ${-my}L${mx + (ix - mx) * k} ${-(my + (iy - my) * k)}`} strokeWidth={unit}>
          <title>{o.name}</title>
        </path>
      </g>
    );
  });
}

/** What was added around the building, by its outline; blockers dashed, for they are cheats. */
function Things(p: { lie: Lie; unit: number; level: boolean; placeOf: PlaceOf }) {
  const { lie, unit } = p;
  const additions = useStudio((s) => s.project?.models[0]?.settings.edits.additions) ?? [];
  const [moving, setMoving] = useState<{ id: string; to: Point } | null>(null);
  return additions
    .filter((a) => a.on && a.kind !== "ground")
    .map((a) => {
      const at = moving?.id === a.id ? moving.to : (a.position as Point);
      const [w, d, h] = a.size_m;
      const t = (a.turn_deg * Math.PI) / 180;
      const deep = a.kind === "tree" ? w : d;
      const corner = (sx: number, sy: number, sz: number) =>
        lie.flat([
          at[0] + (sx * w * Math.cos(t) - sy * deep * Math.sin(t)) / 2,
          at[1] + (sx * w * Math.sin(t) + sy * deep * Math.cos(t)) / 2,
          at[2] + sz * h,
        ]);
      const ends = [-1, 1].map((s) => corner(s, 0, 0)[0]);
      const outline: Flat[] = p.level
        ? [corner(-1, -1, 0), corner(1, -1, 0), corner(1, 1, 0), corner(-1, 1, 0)]
        : [
            [Math.min(...ends), at[2]],
            [Math.max(...ends), at[2]],
            [Math.max(...ends), at[2] + h],
            [Math.min(...ends), at[2] + h],
          ];
      const [x, y] = lie.flat(at);
      const grab = handle(
        p.placeOf,
        (to) => setMoving({ id: a.id, to: rounded(lie.moved(at, to)) }),
        () => {
          if (moving?.id === a.id)
            void editModel(
              {
                additions: additions.map((o) =>
                  o.id === a.id ? { ...o, position: moving.to } : o,
                ),
              },
              `Move ${a.name}`,
            ).then(() => setMoving(null));
        },
      );
      const dashed = a.kind === "blocker" ? `${unit * 3} ${unit * 2}` : undefined;
      return (
        <g key={a.id} {...grab} stroke="var(--ink)" strokeWidth={unit} fill="var(--sheet)">
          {a.kind === "tree" && p.level ? (
            <circle cx={x} cy={-y} r={w / 2} fillOpacity="0.6" />
          ) : (
            <path d={path(outline, true)} fillOpacity="0.6" strokeDasharray={dashed} />
          )}
          <circle cx={x} cy={-y} r={unit * 3} fill="var(--ink)">
            <title>{a.name}: drag to move it</title>
          </circle>
        </g>
      );
    });
}
