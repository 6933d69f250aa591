import { useEffect, useRef, useState } from "react";
import type { Mark } from "../api/types";
import { useHunt } from "../state/hunt";
import {
  askMarks,
  letGo,
  carry,
  giveUp,
  marksOf,
  notch,
  nudge,
  removeMark,
  select,
  setHands,
  take,
  turnBy,
  turned,
  useHands,
} from "../state/hands";
import { useView } from "../state/look";
import { useStudio } from "../state/store";
import { type Stage } from "../state/store/view";
import { Tip } from "../ui/Tip";

/** Which marks a stage shows while the pointer is in the picture. */
const SHOWN: Partial<Record<Stage, Mark["kind"][]>> = {
  Site: ["addition", "opening", "part", "copy"],
  Daylight: ["opening"],
  Fixtures: ["lamp", "aim"],
  Balance: ["lamp"],
};
/** How long after a change marks are asked for anew, in ms. */
const SOON = 200;
/** The pointer moves so far before a mark is dragged, in pixels. */
const SLACK_PX = 4;
/** Radius of the ring that turns a lamp, in pixels. */
const RING_PX = 19;

const sharesOf = (e: React.PointerEvent): [number, number] => {
  const box = e.currentTarget.closest("[data-hands]")?.getBoundingClientRect();
  if (!box) return [0, 0];
  return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height];
};

/** Quiet marks over the picture: sources, aims, openings, additions and the focus, to select and to drag.
 * They are there while the pointer is in the picture, or the keyboard on one of them. */
export function Hands({ inside }: { inside: boolean }) {
  const key = useStudio(marksOf);
  const ready = useStudio((s) => s.frame !== null && !s.frame.empty && !s.last);
  const stage = useStudio((s) => s.stage);
  const busy = useStudio((s) => s.placing ?? s.picking ?? (s.flying || s.metering));
  const aiming = useHunt((s) => s.aiming);
  const selected = useStudio((s) => s.selected);
  const [within, setWithin] = useState(false);
  const { marks, all, holding, place, outline } = useHands();
  const view = useView();
  useEffect(() => {
    if (!ready) return;
    const soon = setTimeout(() => void askMarks().catch(() => setHands({ marks: [] })), SOON);
    return () => clearTimeout(soon);
  }, [key, ready]);
  if (busy || aiming || !view || !(inside || all || holding || within)) return null;
  const kinds = all
    ? (["lamp", "aim", "addition", "opening", "part", "copy"] as const)
    : (SHOWN[stage] ?? []);
  const shown = marks.filter(
    (m) =>
      (kinds as readonly string[]).includes(m.kind) &&
      (m.kind !== "aim" || m.of === selected) &&
      (!m.hidden || m.of === selected || all),
  );
  return (
    <div
      data-hands
      data-testid="hands"
      className="pointer-events-none absolute inset-0 overflow-hidden"
      onFocus={() => setWithin(true)}
      onBlur={() => setWithin(false)}
    >
      {outline && holding && (
        <svg
          viewBox="0 0 1 1"
          preserveAspectRatio="none"
          className="absolute inset-0 h-full w-full"
        >
          <polygon
            points={outline.map((c) => c.join(",")).join(" ")}
            fill="none"
            stroke="var(--blue-on-mount)"
            strokeWidth="2"
            vectorEffect="non-scaling-stroke"
          />
        </svg>
      )}
      {shown.map((m) => (
        <Handle
          key={`${m.kind} ${m.of} ${m.place}`}
          mark={m}
          chosen={m.of === selected}
          ring={m.of === selected && m.place === place}
        />
      ))}
      {stage === "View" && view.depth_of_field && <Focus />}
    </div>
  );
}

const LOOKS: Record<Mark["kind"], string> = {
  lamp: "rounded-full border-[1.5px] border-sun-on-mount",
  aim: "rotate-45 border-[1.5px] border-sun-on-mount",
  addition: "border-[1.5px] border-white",
  opening: "rounded-[1px] border-[1.5px] border-blue-on-mount",
  part: "rounded-[3px] border-[1.5px] border-white",
  copy: "rounded-[3px] border-[1.5px] border-dashed border-white",
};

function Handle({ mark, chosen, ring }: { mark: Mark; chosen: boolean; ring: boolean }) {
  const holding = useHands((s) => s.holding);
  const at = useHands((s) => s.at);
  const taken = useRef<{ x: number; y: number; held: boolean } | null>(null);
  const mine =
    holding?.what === "mark" && holding.from === mark.of && holding.mark.kind === mark.kind;
  const held = mine && holding.mark.place === mark.place;
  const [x, y] = held ? at : [mark.x, mark.y];
  // One that is turned in its plane, in a roof, is no opening that is placed by hand.
  const still = mark.kind === "opening" && !mark.opening;
  const what = mark.kind === "aim" ? "Aim of " : "";
  return (
    <>
      {ring && mark.kind === "lamp" && !holding && <Ring mark={mark} />}
      <Tip text={still ? mark.name : `${what}${mark.name}: drag it; Alt lifts it, Ctrl copies it`}>
        <button
          className={`mark pointer-events-auto absolute grid h-[22px] w-[22px] -translate-x-1/2 -translate-y-1/2 touch-none place-items-center ${still ? "cursor-pointer" : "cursor-grab"}`}
          style={{ left: `${x * 100}%`, top: `${y * 100}%` }}
          aria-label={`${what}${mark.name}${mark.place ? ` ${mark.place + 1}` : ""}`}
          aria-pressed={chosen}
          onClick={() => select(mark)}
          onPointerDown={(e) => {
            e.stopPropagation();
            e.currentTarget.setPointerCapture(e.pointerId);
            taken.current = { x: e.clientX, y: e.clientY, held: false };
          }}
          onPointerMove={(e) => {
            const begun = taken.current;
            if (!begun) return;
            const far = Math.hypot(e.clientX - begun.x, e.clientY - begun.y) > SLACK_PX;
            if (!begun.held && far) {
              begun.held = true;
              take(mark, sharesOf(e), e.ctrlKey || e.metaKey);
            }
            if (begun.held) carry(...sharesOf(e), e);
          }}
          onPointerUp={() => {
            if (taken.current?.held) void letGo();
            taken.current = null;
          }}
          onPointerCancel={() => {
            taken.current = null;
            giveUp();
          }}
          onKeyDown={(e) => {
            if (e.key === "Delete") void removeMark(mark);
            else if (!nudge(mark, e.key, e.shiftKey)) return;
            e.preventDefault();
            e.stopPropagation();
          }}
          onWheel={(e) => {
            if (!chosen || mark.kind !== "lamp") return;
            e.stopPropagation();
            notch(mark, e.deltaY < 0);
          }}
        >
          <i
            className={`block h-[11px] w-[11px] bg-black/45 shadow-[0_0_0_1.5px_rgb(0_0_0/0.55)] ${LOOKS[mark.kind]} ${chosen ? "bg-sun-on-mount!" : ""}`}
          />
        </button>
      </Tip>
    </>
  );
}

/** A ring around the chosen lamp: dragged around, it turns the lamp. */
function Ring({ mark }: { mark: Mark }) {
  const last = useRef<number | null>(null);
  const angle = (e: React.PointerEvent) => {
    const box = e.currentTarget.getBoundingClientRect();
    const dx = e.clientX - box.left - box.width / 2;
    const dy = e.clientY - box.top - box.height / 2;
    return (Math.atan2(dy, dx) * 180) / Math.PI;
  };
  return (
    <svg
      className="mark absolute -translate-x-1/2 -translate-y-1/2 touch-none overflow-visible"
      style={{ left: `${mark.x * 100}%`, top: `${mark.y * 100}%` }}
      width={2 * RING_PX}
      height={2 * RING_PX}
      viewBox={`${-RING_PX} ${-RING_PX} ${2 * RING_PX} ${2 * RING_PX}`}
      fill="none"
    >
      <circle r={RING_PX} stroke="rgb(0 0 0 / 0.5)" strokeWidth="3" />
      <circle r={RING_PX} stroke="var(--sun-on-mount)" strokeWidth="1.5" />
      <circle
        r={RING_PX}
        stroke="transparent"
        strokeWidth="9"
        className="pointer-events-auto cursor-alias"
        data-testid="turning-ring"
        onPointerDown={(e) => {
          e.stopPropagation();
          e.currentTarget.setPointerCapture(e.pointerId);
          last.current = angle(e);
        }}
        onPointerMove={(e) => {
          if (last.current === null) return;
          const now = angle(e);
          turnBy(mark, now - last.current);
          last.current = now;
        }}
        onPointerUp={() => {
          last.current = null;
          void turned(mark);
        }}
      >
        <title>{`Turn ${mark.name}`}</title>
      </circle>
    </svg>
  );
}

/** Where the picture is sharp: dropped on a surface, it focuses there. */
function Focus() {
  const { focus, holding, at } = useHands();
  const held = holding?.what === "focus";
  const [x, y] = held ? at : focus;
  return (
    <Tip text="Focus: drop it on what should be sharp">
      <button
        className="mark pointer-events-auto absolute h-[22px] w-[22px] -translate-x-1/2 -translate-y-1/2 cursor-grab touch-none"
        style={{ left: `${x * 100}%`, top: `${y * 100}%` }}
        aria-label="Focus: drop it on what should be sharp"
        onPointerDown={(e) => {
          e.stopPropagation();
          e.currentTarget.setPointerCapture(e.pointerId);
          setHands({ holding: { what: "focus" }, at: sharesOf(e) });
        }}
        onPointerMove={(e) => held && carry(...sharesOf(e), e)}
        onPointerUp={() => void letGo()}
        onPointerCancel={giveUp}
      >
        <svg viewBox="-11 -11 22 22" fill="none">
          {["rgb(0 0 0 / 0.6)", "white"].map((colour, i) => (
            <path
              key={colour}
              d="M-8 -3V-8H-3M3 -8H8V-3M8 3V8H3M-3 8H-8V3M-2 0H2M0 -2V2"
              stroke={colour}
              strokeWidth={i ? 1.5 : 3.5}
            />
          ))}
        </svg>
      </button>
    </Tip>
  );
}
