// How a drawing stands: its scale, north on the plan, up in a section.

import { useRef, useState } from "react";
import { answer, api } from "../api/client";
import { accept, edit, say, useStudio } from "../state/studio";
import type { Flat, Point } from "./SheetMarks";

const SIDES = ["up", "right", "down", "left"] as const;

/** Which way is up; dragged to another side of the section, the building stands up on that side. */
export function Up({ right: [rx, ry] }: { right: Flat }) {
  const project = useStudio((s) => s.project?.id);
  const arrow = useRef<SVGSVGElement>(null);
  const [side, setSide] = useState(0);
  const save = async () => {
    const direction = (
      [
        [0, 0, 1],
        [rx, ry, 0],
        [0, 0, -1],
        [-rx, -ry, 0],
      ] as Point[]
    )[side];
    setSide(0);
    if (side === 0 || !project || !direction) return;
    try {
      const params = { path: { project } };
      accept(await answer(api.POST("/api/projects/{project}/up", { params, body: { direction } })));
    } catch (error) {
      say(error);
    }
  };
  return (
    <svg
      ref={arrow}
      width="30"
      height="34"
      viewBox="-15 -17 30 34"
      role="slider"
      tabIndex={0}
      aria-label="Up"
      aria-valuemin={0}
      aria-valuemax={3}
      aria-valuenow={side}
      aria-valuetext={`${SIDES[side]} in the section`}
      className="pointer-events-auto cursor-grab touch-none"
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => {
        const box = arrow.current?.getBoundingClientRect();
        if (!box || !e.currentTarget.hasPointerCapture(e.pointerId)) return;
        const [x, y] = [e.clientX - box.left - box.width / 2, e.clientY - box.top - box.height / 2];
        if (Math.hypot(x, y) > 8) setSide((Math.round(Math.atan2(x, -y) / (Math.PI / 2)) + 4) % 4);
      }}
      onPointerUp={() => void save()}
      onKeyDown={(e) => {
        const step = { ArrowRight: 1, ArrowLeft: 3 }[e.key];
        if (step) setSide((side + step) % 4);
        else if (e.key === "Enter") void save();
        else if (e.key === "Escape") setSide(0);
      }}
      onBlur={() => setSide(0)}
    >
      <title>Lies the building on its side? Drag the arrow to where up should be</title>
      <g transform={`rotate(${side * 90})`} stroke="var(--ink-2)" fill="none">
        <path d="M0 12V-6M-3.5 -2L0 -7L3.5 -2M-6 12H6" />
        <text y="-9" fontSize="9.5" textAnchor="middle" fill="var(--ink-2)" stroke="none">
          up
        </text>
      </g>
    </svg>
  );
}

/** Where north is; dragged round, it turns the building against the sky. */
export function North({ degrees }: { degrees: number }) {
  const project = useStudio((s) => s.project?.id);
  const arrow = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState<number | null>(null);
  const save = () => {
    if (held !== null && project)
      void edit("project", project, { north_deg: held }, "Turn north").then(() => setHeld(null));
  };
  return (
    <svg
      ref={arrow}
      width="30"
      height="34"
      viewBox="-15 -17 30 34"
      role="slider"
      tabIndex={0}
      aria-label="North"
      aria-valuenow={held ?? degrees}
      className="pointer-events-auto cursor-grab touch-none"
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => {
        const box = arrow.current?.getBoundingClientRect();
        if (!box || !e.currentTarget.hasPointerCapture(e.pointerId)) return;
        const [x, y] = [e.clientX - box.left - box.width / 2, e.clientY - box.top - box.height / 2];
        if (Math.hypot(x, y) > 3) setHeld(-Math.round((Math.atan2(x, -y) * 180) / Math.PI));
      }}
      onPointerUp={save}
      onKeyDown={(e) => {
        const step = { ArrowLeft: 1, ArrowRight: -1 }[e.key];
        if (step) setHeld(Math.round((held ?? degrees) + step * (e.shiftKey ? 10 : 1)));
      }}
      onBlur={save}
    >
      <title>Drag to turn north</title>
      <g transform={`rotate(${-(held ?? degrees)})`} stroke="var(--ink-2)" fill="none">
        <path d="M0 12V-6M-3.5 -2L0 -7L3.5 -2" />
        <text y="-8" fontSize="9" textAnchor="middle" fill="var(--ink-2)" stroke="none">
          N
        </text>
      </g>
      {held !== null && (
        <text x="0" y="16" fontSize="8" textAnchor="middle" fill="var(--ink)">
          {held}°
        </text>
      )}
    </svg>
  );
}

/** A bar of a round number of metres, and beside it how the drawing stands. */
export function ScaleBar({ span, children }: { span: number; children: React.ReactNode }) {
  const round = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].findLast((m) => m < span / 3) ?? 0.1;
  return (
    <div className="pointer-events-none absolute inset-x-2 bottom-1 flex items-end justify-between text-[10.5px] text-ink-2">
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
