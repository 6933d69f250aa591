import { Slider } from "radix-ui";
import { memo, useLayoutEffect, useRef, useState } from "react";

export interface AmountProps {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  /** Value a double click returns to. */
  normal: number;
  write: (value: number) => string;
  read?: (text: string) => number;
  onHold: (value: number) => void;
  onRelease: (value: number) => void;
  /** Slider works on the logarithm: equal ways are equal factors. */
  logarithmic?: boolean;
  /** What is typed or nudged may lie beyond the ends of the slider, which only spans what is near. */
  anywhere?: boolean;
  bare?: boolean;
  track?: string;
  disabled?: boolean;
}

/** What an amount is, without its value and what becomes of it: a row of a table of them. */
export type AmountKind = Omit<AmountProps, "value" | "onHold" | "onRelease">;

const clamp = (v: number, low: number, high: number) => Math.min(Math.max(v, low), high);

/** Step of an arrow key: Shift is coarse, Alt is fine. */
export const stepOf = (event: { shiftKey: boolean; altKey: boolean }, step: number) =>
  event.shiftKey ? step * 10 : event.altKey ? step / 10 : step;

const usual = (text: string) => Number.parseFloat(text.replace("−", "-").replace(",", "."));

type Told = "onHold" | "onRelease" | "write" | "read";
interface BodyProps extends Omit<AmountProps, Told> {
  text: string;
  onHold: (value: number) => void;
  onRelease: (value: number) => void;
  read: (text: string) => number;
}

/** What does the same for ever: it asks what there is to do when it is done. */
export function useLatest<A, R>(does: (of: A) => R): (of: A) => R {
  const now = useRef(does);
  useLayoutEffect(() => {
    now.current = does;
  });
  const [told] = useState(() => (of: A) => now.current(of));
  return told;
}

/** A quantity: drag its slider or label, type it, nudge it with arrows, double click for normal. */
export function Amount({ onHold, onRelease, write, read = usual, ...rest }: AmountProps) {
  // A panel is drawn anew for every move of a hand, most of its amounts stay as they are.
  const told = {
    onHold: useLatest(onHold),
    onRelease: useLatest(onRelease),
    read: useLatest(read),
  };
  return <Body {...rest} {...told} text={write(rest.value)} />;
}

const Body = memo(function Body(p: BodyProps) {
  const to = (v: number) => (p.logarithmic ? Math.log2(v) : v);
  const from = (v: number) => (p.logarithmic ? 2 ** v : v);
  const drag = useRef<{ x: number; start: number; now: number } | null>(null);
  const span = to(p.max) - to(p.min);
  const slid = useRef(false);
  const keyed = useRef<number | null>(null);
  const round = (v: number) => {
    const whole = p.logarithmic ? v : Math.round(v / p.step) * p.step;
    return Number(whole.toPrecision(7));
  };
  const snap = (v: number) => clamp(round(v), p.min, p.max);
  const both = (v: number) => {
    p.onHold(v);
    p.onRelease(v);
  };
  return (
    <div
      className={
        p.bare ? "contents" : "grid grid-cols-[var(--label)_1fr_64px] items-center gap-2 py-[3px]"
      }
    >
      {!p.bare && (
        <span
          className="cursor-ew-resize touch-none text-ink-2 select-none"
          onPointerDown={(e) => {
            if (p.disabled) return;
            e.currentTarget.setPointerCapture(e.pointerId);
            drag.current = { x: e.clientX, start: to(p.value), now: p.value };
          }}
          onPointerMove={(e) => {
            const d = drag.current;
            if (!d) return;
            const way = ((e.clientX - d.x) / 160) * span * (e.altKey ? 0.1 : 1);
            d.now = snap(from(clamp(d.start + way, to(p.min), to(p.max))));
            p.onHold(d.now);
          }}
          onPointerUp={() => {
            if (drag.current && drag.current.now !== p.value) p.onRelease(drag.current.now);
            else if (drag.current) p.onRelease(p.value);
            drag.current = null;
          }}
          onDoubleClick={() => both(p.normal)}
        >
          {p.label}
        </span>
      )}
      <Slider.Root
        className="relative flex h-4 touch-none items-center select-none"
        min={to(p.min)}
        max={to(p.max)}
        step={p.logarithmic ? span / 400 : p.step}
        value={[to(clamp(p.value, p.min, p.max))]}
        disabled={p.disabled}
        onValueChange={([v]) => {
          if (keyed.current === v) {
            keyed.current = null;
            return;
          }
          slid.current = true;
          p.onHold(snap(from(v ?? 0)));
        }}
        onValueCommit={([v = 0]) => {
          // By a key the slider commits first and tells the change after it.
          if (slid.current) p.onRelease(snap(from(v)));
          else {
            keyed.current = v;
            both(snap(from(v)));
          }
          slid.current = false;
        }}
        // Drawn away and back again nothing is committed, but something is held.
        onLostPointerCapture={() => {
          if (slid.current) p.onRelease(p.value);
          slid.current = false;
        }}
        onDoubleClick={() => both(p.normal)}
      >
        <Slider.Track
          className="relative h-[1.5px] grow bg-rule"
          style={p.track ? { background: p.track } : undefined}
        >
          {!p.track && <Slider.Range className="absolute h-full bg-current" />}
        </Slider.Track>
        <Slider.Thumb
          className="block h-[13px] w-[4px] cursor-ew-resize rounded-[1px] bg-current"
          aria-label={p.label}
        />
      </Slider.Root>
      <NumberField {...p} onSet={both} snap={p.anywhere ? round : snap} />
    </div>
  );
});

function NumberField(p: BodyProps & { onSet: (v: number) => void; snap: (v: number) => number }) {
  const [text, setText] = useState<string | null>(null);
  // Beside the state: Enter takes the text, and the field may lose the keyboard before it is drawn again.
  const typed = useRef<string | null>(null);
  const write = (next: string | null) => {
    typed.current = next;
    setText(next);
  };
  const take = () => {
    const said = typed.current;
    write(null);
    if (said === null) return;
    const value = p.read(said);
    if (Number.isFinite(value)) p.onSet(p.snap(value));
  };
  return (
    <input
      className="number w-full"
      aria-label={`${p.label}, value`}
      disabled={p.disabled}
      value={text ?? p.text}
      onFocus={(e) => e.target.select()}
      onChange={(e) => write(e.target.value)}
      onBlur={take}
      onKeyDown={(e) => {
        if (e.key === "Enter") take();
        else if (e.key === "Escape") write(null);
        else if (e.key === "ArrowUp" || e.key === "ArrowDown") {
          e.preventDefault();
          const way = e.key === "ArrowUp" ? 1 : -1;
          const next = p.logarithmic
            ? p.value * 2 ** ((way * stepOf(e, 1)) / 3)
            : p.value + way * stepOf(e, p.step);
          const exact = Number(next.toPrecision(7));
          p.onSet(p.anywhere ? exact : clamp(exact, p.min, p.max));
        }
      }}
    />
  );
}
