import { stepDone } from "../state/firstSteps";
import { useRef } from "react";
import { hold, release } from "../state/held";
import { useLookOf } from "../state/look";
import { clock } from "./words";

/** The day as a band in the colours of its own sky, with a handle for the time. */
export function DayBand({ band }: { band: string[] }) {
  const look = useLookOf("minutes", "sun");
  const bar = useRef<HTMLDivElement>(null);
  const dragging = useRef(false);
  if (!look) return null;
  const place = (minutes: number) => `${(minutes / 1440) * 100}%`;
  const move = (clientX: number) => {
    const box = bar.current?.getBoundingClientRect();
    if (!box) return;
    const share = Math.min(Math.max((clientX - box.left) / box.width, 0), 1);
    hold({ look: { minutes: Math.round(share * 1440), sun: { mode: "time" } } }, true);
  };
  const nudge = (minutes: number) => {
    const next = Math.min(Math.max(look.minutes + minutes, 0), 1440);
    hold({ look: { minutes: next, sun: { mode: "time" } } }, false);
    void release("Change the time");
  };
  const free = look.sun.mode === "free";
  return (
    <div className="select-none">
      <div
        ref={bar}
        data-testid="day-band"
        className="relative h-[30px] cursor-ew-resize touch-none rounded-[2px]"
        style={{ background: `linear-gradient(to right, ${band.join(",")})` }}
        tabIndex={0}
        role="slider"
        aria-label="Time of day"
        aria-valuemin={0}
        aria-valuemax={1440}
        aria-valuenow={look.minutes}
        aria-valuetext={clock(look.minutes)}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          dragging.current = true;
          move(e.clientX);
        }}
        onPointerMove={(e) => dragging.current && move(e.clientX)}
        onPointerUp={() => {
          dragging.current = false;
          stepDone("sun");
          void release("Change the time");
        }}
        onKeyDown={(e) => {
          const step = e.shiftKey ? 60 : e.altKey ? 1 : 10;
          if (e.key === "ArrowRight" || e.key === "ArrowUp") nudge(step);
          else if (e.key === "ArrowLeft" || e.key === "ArrowDown") nudge(-step);
          else return;
          e.preventDefault();
        }}
      >
        <i
          className={`absolute -top-[4px] -bottom-[4px] w-[2px] -translate-x-1/2 bg-ink outline-1 outline-sheet ${free ? "opacity-30" : ""}`}
          style={{ left: place(look.minutes) }}
        />
      </div>
      <div className="relative mt-[3px] h-[18px] text-small text-ink-2">
        {[0, 6, 12, 18, 24].map((hour) => (
          <span
            key={hour}
            className={`absolute ${hour === 0 ? "" : hour === 24 ? "-translate-x-full" : "-translate-x-1/2"} ${Math.abs(look.minutes - hour * 60) < 150 ? "opacity-0" : ""}`}
            style={{ left: place(hour * 60) }}
          >
            {hour}
          </span>
        ))}
        <b
          className="absolute -translate-x-1/2 text-body text-ink"
          style={{ left: `clamp(16px, ${place(look.minutes)}, calc(100% - 16px))` }}
        >
          {free ? "free" : clock(look.minutes)}
        </b>
      </div>
    </div>
  );
}
