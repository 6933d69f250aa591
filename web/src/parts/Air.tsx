import { ColourField } from "../ui/ColourField";
import { Row } from "../ui/Row";
import { useState } from "react";
import type { Haze } from "../api/types";
import { editLook } from "../state/edits";
import { useLookPart, viewRow } from "../state/look";
import { get } from "../state/store";
import { Amount, type AmountKind } from "../ui/Amount";
import { useVocabulary } from "../state/vocabulary";
import { DialLine } from "./DialLine";
import { Section } from "../ui/Section";
import { metres } from "./words";

const CLEAR: Haze = {
  visibility_m: 300,
  thins_over_m: null,
  colour: "#ffffff",
  scattering: 0.95,
  forward: 0.5,
  low: null,
  high: null,
  on: true,
};

/** It thins with height, else a sky full of it would swallow the sun. */
const EVERYWHERE: Haze = { ...CLEAR, visibility_m: 400, thins_over_m: 12 };

/** Haze that is traced: it scatters and takes light, and shows shafts where the sun comes in. */
export function Air() {
  const air = useLookPart("air");
  const dials = useVocabulary().numbers.haze ?? {};
  const [held, setHeld] = useState<Record<string, number>>({});
  if (!air) return null;
  const save = (rows: Haze[], label: string) => void editLook({ air: rows }, label);
  const change = (i: number, patch: Partial<Haze>, label: string) =>
    save(
      air.map((h, k) => (k === i ? { ...h, ...patch } : h)),
      label,
    );
  const aroundView = (): Haze => {
    // A box before the camera, as high as a room: a beginning to be pulled into place.
    const view = viewRow(get())?.settings;
    const [x, y] = view?.target ?? [0, 0];
    return { ...CLEAR, visibility_m: 120, low: [x - 4, y - 4, 0], high: [x + 4, y + 4, 3.5] };
  };
  const line = (
    i: number,
    key: "visibility_m" | "thins_over_m" | "scattering" | "forward",
    value: number,
    given: Partial<AmountKind> = {},
    kept: (v: number) => number | null = (v) => v,
  ) => (
    <DialLine
      of="haze"
      name={key}
      value={held[`${i}${key}`] ?? value}
      {...given}
      normal={value}
      onHold={(v) => setHeld({ [`${i}${key}`]: v })}
      onRelease={(v) => {
        setHeld({});
        change(i, { [key]: kept(v) }, dials[key]?.label ?? "");
      }}
    />
  );
  return (
    <Section title="Air" aside={air.some((h) => h.on) ? "traced" : "clear"}>
      {air.map((h, i) => (
        <div key={i} className="mb-2 border-b border-rule pb-1 last-of-type:border-b-0">
          <div className="flex justify-between">
            <b className={h.on ? "font-[550]" : "font-normal text-ink-3"}>
              {h.low ? "Haze in a box" : "Haze everywhere"}
            </b>
            <span className="flex gap-2">
              <button
                className="quiet text-small underline"
                onClick={() => change(i, { on: !h.on }, h.on ? "Clear air" : "Haze")}
              >
                {h.on ? "off" : "on"}
              </button>
              <button
                className="quiet text-small underline"
                aria-label={`Remove haze ${i + 1}`}
                onClick={() =>
                  save(
                    air.filter((_, k) => k !== i),
                    "Remove haze",
                  )
                }
              >
                remove
              </button>
            </span>
          </div>
          {h.on && (
            <>
              {line(i, "visibility_m", h.visibility_m, { write: metres })}
              {line(
                i,
                "thins_over_m",
                h.thins_over_m ?? 1000,
                { write: (v) => (v >= 999 ? "even" : metres(v)) },
                (v) => (v >= 999 ? null : v),
              )}
              {line(i, "scattering", h.scattering)}
              {line(i, "forward", h.forward, { write: (v) => v.toFixed(2) })}
              {h.low && h.high && (
                <Box of={h} onChange={(patch, label) => change(i, patch, label)} />
              )}
              <Row label="Colour">
                <ColourField
                  aria-label="Colour of the haze"
                  value={h.colour}
                  onRelease={(colour) => change(i, { colour }, "Colour of haze")}
                />
              </Row>
            </>
          )}
        </div>
      ))}
      <div className="grid grid-cols-2 gap-1">
        <button className="button" onClick={() => save([...air, EVERYWHERE], "Haze everywhere")}>
          Haze everywhere
        </button>
        <button className="button" onClick={() => save([...air, aroundView()], "Haze in a box")}>
          Haze in a box
        </button>
      </div>
    </Section>
  );
}

/** Middle and size of a box of haze. */
function Box({
  of: h,
  onChange,
}: {
  of: Haze;
  onChange: (p: Partial<Haze>, label: string) => void;
}) {
  const [held, setHeld] = useState<Record<string, number>>({});
  const { low, high } = h;
  if (!low || !high) return null;
  const rows = [
    ["East", 0, "middle"],
    ["North", 1, "middle"],
    ["Bottom", 2, "low"],
    ["Width", 0, "size"],
    ["Depth", 1, "size"],
    ["Tall", 2, "size"],
  ] as const;
  return rows.map(([label, i, what]) => {
    const middle = (low[i] + high[i]) / 2;
    const size = high[i] - low[i];
    const value = what === "middle" ? middle : what === "low" ? low[i] : size;
    const place = (v: number): Partial<Haze> => {
      const a: [number, number, number] = [...low];
      const b: [number, number, number] = [...high];
      const half = what === "size" ? v / 2 : size / 2;
      const at = what === "middle" ? v : middle;
      a[i] = what === "low" ? v : i === 2 ? low[2] : at - half;
      b[i] = what === "low" ? v + size : i === 2 ? low[2] + v : at + half;
      return { low: a, high: b };
    };
    return (
      <Amount
        key={label}
        label={label}
        value={held[label] ?? value}
        min={what === "size" ? 0.2 : value - 20}
        max={what === "size" ? 100 : value + 20}
        anywhere={what !== "size"}
        step={0.1}
        normal={value}
        write={metres}
        onHold={(v) => setHeld({ [label]: v })}
        onRelease={(v) => {
          setHeld({});
          onChange(place(v), `${label} of haze`);
        }}
      />
    );
  });
}
