// What lies on the sheet and can be dragged there: camera, lamps, openings, additions, moved parts.

import type { Fixture, View } from "../api/types";
import { hold, holdAddition, release, useAdditions } from "../state/held";
import { merge } from "../state/merge";
import { viewRow } from "../state/look";
import { set, useStudio } from "../state/store";
import { holdPlaced, usePlaced } from "../state/moved";
import { useOpenings } from "./Openings";
import { usePartList } from "./Parts";

export type Point = [number, number, number];
export type Flat = [number, number];

/** How points of the building lie on the sheet, and back. */
export interface Lie {
  flat: (p: Point) => Flat;
  /** A point of the building moved to a place of the sheet; what the sheet does not show stays. */
  moved: (p: Point, to: Flat) => Point;
}

export const path = (points: Flat[], close: boolean) =>
  points.length ? `M${points.map(([x, y]) => `${x} ${-y}`).join("L")}${close ? "Z" : ""}` : "";

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
export function Eye(p: { view: View; lie: Lie; unit: number; level: boolean; placeOf: PlaceOf }) {
  const { view, lie, unit } = p;
  const name = useStudio((s) => viewRow(s)?.name ?? "");
  const position = view.position as Point;
  const target = view.target as Point;
  const [x, y] = lie.flat(position);
  const [tx, ty] = lie.flat(target);
  const angle = Math.atan2(ty - y, tx - x);
  const half = Math.atan(18 / view.focal_length_mm / (p.level ? 1 : view.aspect));
  const reach = Math.max(Math.hypot(tx - x, ty - y), unit * 20);
  const sharp = useStudio((s) => s.frame?.sharp);
  const zone = sharp && p.level ? [sharp[0], sharp[1] ?? Math.max(reach, sharp[0]) * 2] : null;
  // Sharpness is measured along the axis, so the zone is cut straight across the cone.
  const across = (d: number, side: 1 | -1) => {
    const w = d * Math.tan(half) * side;
    return `${x + d * Math.cos(angle) - w * Math.sin(angle)} ${-(y + d * Math.sin(angle) + w * Math.cos(angle))}`;
  };
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
      {zone && (
        <path
          d={`M${across(zone[0] ?? 0, 1)}L${across(zone[1] ?? 0, 1)}L${across(zone[1] ?? 0, -1)}L${across(zone[0] ?? 0, -1)}Z`}
          fill="var(--blue)"
          opacity="0.28"
          data-testid="sharp-zone"
        >
          <title>Sharp from here to there</title>
        </path>
      )}
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
export function Lamps({ lie, unit, placeOf }: { lie: Lie; unit: number; placeOf: PlaceOf }) {
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
export function Portals({ lie, unit }: { lie: Lie; unit: number }) {
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
export function Things(p: { lie: Lie; unit: number; level: boolean; placeOf: PlaceOf }) {
  const { lie, unit } = p;
  const additions = useAdditions();
  return additions
    .filter((a) => a.on && a.kind !== "ground")
    .map((a) => {
      const at = a.position as Point;
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
        (to) => holdAddition(a.id, { position: rounded(lie.moved(at, to)) }),
        () => void release(`Move ${a.name}`),
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

/** Parts of the building that were moved, and copies: by the box they fill. */
export function MovedThings(p: { lie: Lie; unit: number; level: boolean; placeOf: PlaceOf }) {
  const { lie, unit } = p;
  const placed = usePlaced();
  const boxes = usePartList().data?.parts;
  return placed.map((m) => {
    const box = boxes?.find((row) => row.name === m.of)?.box;
    if (!box) return null;
    const [low, high] = box;
    const foot: Point = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]];
    const at: Point = [foot[0] + m.by[0], foot[1] + m.by[1], foot[2] + m.by[2]];
    const [w, d, h] = [0, 1, 2].map((i) => ((high[i] ?? 0) - (low[i] ?? 0)) * m.size) as Point;
    const t = (m.turn_deg * Math.PI) / 180;
    const corner = (sx: number, sy: number, up: number) =>
      lie.flat([
        at[0] + (sx * w * Math.cos(t) - sy * d * Math.sin(t)) / 2,
        at[1] + (sx * w * Math.sin(t) + sy * d * Math.cos(t)) / 2,
        at[2] + up,
      ]);
    const around = [corner(-1, -1, 0), corner(1, -1, 0), corner(1, 1, 0), corner(-1, 1, 0)];
    const across = around.map(([x]) => x);
    const outline: Flat[] = p.level
      ? around
      : [
          [Math.min(...across), at[2]],
          [Math.max(...across), at[2]],
          [Math.max(...across), at[2] + h],
          [Math.min(...across), at[2] + h],
        ];
    const [x, y] = lie.flat(at);
    const grab = handle(
      p.placeOf,
      (to) => {
        const [a, b, c] = lie.moved(at, to);
        holdPlaced(m.kind, m.id, {
          by: rounded([a - foot[0], b - foot[1], c - foot[2]]),
        });
      },
      () => void release(`Move ${m.name}`),
    );
    return (
      <g key={`${m.kind} ${m.id}`} {...grab} stroke="var(--ink)" strokeWidth={unit} fill="none">
        <path
          d={path(outline, true)}
          fill="var(--sheet)"
          fillOpacity="0.5"
          strokeDasharray={m.kind === "copy" ? `${unit * 2} ${unit}` : undefined}
        />
        <circle cx={x} cy={-y} r={unit * 3} fill="var(--ink)">
          <title>{m.name}: drag to move it</title>
        </circle>
      </g>
    );
  });
}
