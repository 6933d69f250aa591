// How a drawing stands: its scale, north on the plan, up in a section.

import { useRef, useState } from "react";
import { answer, api } from "../api/client";
import { edit, inTurn } from "../state/edits";
import { useStudio } from "../state/store";
import type { Flat, Point } from "./SheetMarks";

const SIDES = ["up", "right", "down", "left"] as const;

/** An arrow in the corner of a drawing that a hand turns round; angles are clockwise from the top. */
function Arrow(p: {
  label: string;
  value: number;
  text?: string;
  hint: string;
  /** How far a hand must be from the middle to mean anything, in pixels. */
  least: number;
  angle: number;
  onTurn: (degrees: number) => void;
  onKey: (key: string, coarse: boolean) => void;
  onEnd: () => void;
  onLeave: () => void;
  children: React.ReactNode;
}) {
  const arrow = useRef<SVGSVGElement>(null);
  return (
    <svg
      ref={arrow}
      width="30"
      height="34"
      viewBox="-15 -17 30 34"
      role="slider"
      tabIndex={0}
      aria-label={p.label}
      aria-valuenow={p.value}
      aria-valuetext={p.text}
      className="pointer-events-auto cursor-grab touch-none"
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => {
        const box = arrow.current?.getBoundingClientRect();
        if (!box || !e.currentTarget.hasPointerCapture(e.pointerId)) return;
        const [x, y] = [e.clientX - box.left - box.width / 2, e.clientY - box.top - box.height / 2];
        if (Math.hypot(x, y) > p.least) p.onTurn((Math.atan2(x, -y) * 180) / Math.PI);
      }}
      onPointerUp={p.onEnd}
      onKeyDown={(e) => p.onKey(e.key, e.shiftKey)}
      onBlur={p.onLeave}
    >
      <title>{p.hint}</title>
      <g transform={`rotate(${p.angle})`} stroke="var(--ink-2)" fill="none">
        {p.children}
      </g>
    </svg>
  );
}

/** Which way is up; dragged to another side of the section, the building stands up on that side. */
export function Up({ right: [rx, ry] }: { right: Flat }) {
  const project = useStudio((s) => s.project?.id);
  const [side, setSide] = useState(0);
  const save = async () => {
    const ways: Point[] = [
      [0, 0, 1],
      [rx, ry, 0],
      [0, 0, -1],
      [-rx, -ry, 0],
    ];
    const direction = ways[side];
    setSide(0);
    if (side === 0 || !project || !direction) return;
    const params = { path: { project } };
    await inTurn(() =>
      answer(api.POST("/api/projects/{project}/up", { params, body: { direction } })),
    );
  };
  return (
    <Arrow
      label="Up"
      value={side}
      text={`${SIDES[side]} in the section`}
      hint="Lies the building on its side? Drag the arrow to where up should be"
      least={8}
      angle={side * 90}
      onTurn={(a) => setSide((Math.round(a / 90) + 4) % 4)}
      onKey={(key) => {
        const step = { ArrowRight: 1, ArrowLeft: 3 }[key];
        if (step) setSide((side + step) % 4);
        else if (key === "Enter") void save();
        else if (key === "Escape") setSide(0);
      }}
      onEnd={() => void save()}
      onLeave={() => setSide(0)}
    >
      <path d="M0 12V-6M-3.5 -2L0 -7L3.5 -2M-6 12H6" />
      <text y="-9" fontSize="9.5" textAnchor="middle" fill="var(--ink-2)" stroke="none">
        up
      </text>
    </Arrow>
  );
}

/** Where north is; dragged round, it turns the building against the sky. */
export function North({ degrees }: { degrees: number }) {
  const project = useStudio((s) => s.project?.id);
  const [held, setHeld] = useState<number | null>(null);
  const now = held ?? degrees;
  const save = () => {
    if (held !== null && project)
      void edit("project", project, { north_deg: held }, "Turn north").then(() => setHeld(null));
  };
  return (
    <span className="flex flex-col items-center">
      <Arrow
        label="North"
        value={now}
        hint="Drag to turn north"
        least={3}
        angle={-now}
        onTurn={(a) => setHeld(-Math.round(a))}
        onKey={(key, coarse) => {
          const step = { ArrowLeft: 1, ArrowRight: -1 }[key];
          if (step) setHeld(Math.round(now + step * (coarse ? 10 : 1)));
        }}
        onEnd={save}
        onLeave={save}
      >
        <path d="M0 12V-6M-3.5 -2L0 -7L3.5 -2" />
        <text y="-8" fontSize="9" textAnchor="middle" fill="var(--ink-2)" stroke="none">
          N
        </text>
      </Arrow>
      {held !== null && <span className="text-ink">{held}°</span>}
    </span>
  );
}

/** A bar of a round number of metres, and beside it how the drawing stands. */
export function ScaleBar({ span, children }: { span: number; children: React.ReactNode }) {
  const round = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].findLast((m) => m < span / 3) ?? 0.1;
  return (
    <div className="pointer-events-none absolute inset-x-2 bottom-1 flex items-end justify-between text-fine text-ink-2">
      <span
        className="border-b border-ink-2 text-center"
        style={{ width: `${(round / span) * 100}%` }}
      >
        {round} m
      </span>
      {children}
    </div>
  );
}
