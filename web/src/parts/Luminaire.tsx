import { Fold } from "../ui/Fold";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { Luminaire as Card } from "../api/types";
import { set } from "../state/store";
import { DialLine } from "./DialLine";
import { Polar } from "./Polar";
import { Tick } from "../ui/Tick";
import { useChange } from "../state/queries";
import { Tip } from "../ui/Tip";

/** A photometric file at a glance: its curve, the wall it lights, its cone, its numbers. */
export function Luminaire({ of }: { of: Card }) {
  return (
    <div className="mt-2">
      <div className="flex items-start justify-between gap-2">
        <Polar of={of} />
        <Tip
          key={of.asset}
          text="A wall 2.4 × 3 m, the luminaire 35 cm before it below the ceiling"
        >
          <img
            src={`/api/photometry/${of.asset}/wall`}
            alt={`A wall 2.4 m wide lit by ${of.name}, 35 cm before it`}
            className="h-[108px] w-[86px] bg-mount/30 object-cover"
          />
        </Tip>
      </div>
      <div className="mt-1 flex gap-2">
        <Cone of={of} />
        <div className="min-w-0 flex-1 text-small leading-[1.5] text-ink-2">
          <div>
            <b className="text-ink">{of.peak_cd.toFixed(0)} cd</b> peak
          </div>
          <div>{of.flux_lm.toFixed(0)} lm</div>
          {of.efficacy !== null && <div>{of.efficacy.toFixed(0)} lm/W</div>}
          <div>
            beam {of.beam_deg.toFixed(0)}°, field {of.field_deg.toFixed(0)}°
          </div>
          <div>{of.tags.join(", ")}</div>
          <Tip text="CIE flux codes: of the light downwards within 41°, 60° and 76°; of all light downwards">
            <div>flux code {of.flux_codes.join(" ")}</div>
          </Tip>
        </div>
      </div>
      {of.remarks.map((r) => (
        <p key={r} className="pt-1 text-ink-2">
          {r}
        </p>
      ))}
      <Copy key={of.asset} of={of} />
    </div>
  );
}

/** The beam seen from the side: lux and width of its patch at distances straight below. */
function Cone({ of }: { of: Card }) {
  const steps = of.cone;
  const far = steps.at(-1);
  if (!far) return null;
  const half = Math.min(far.diameter_m / 2 / far.distance_m, 1.6);
  const y = (metres: number) => 6 + (metres / far.distance_m) * 80;
  const across = (metres: number) => Math.min((metres / far.distance_m) * half * 40, 52);
  return (
    <svg
      viewBox="0 0 124 100"
      width="124"
      height="100"
      role="img"
      aria-label={steps
        .map((s) => `${s.distance_m} m: ${s.lux} lux on ${s.diameter_m} m`)
        .join(", ")}
    >
      <path
        d={`M62 6L${62 - across(far.distance_m)} ${y(far.distance_m)}H${62 + across(far.distance_m)}Z`}
        fill="var(--sun)"
        fillOpacity="0.16"
        stroke="var(--sun)"
        strokeWidth="1"
      />
      {steps.map((s) => (
        <g key={s.distance_m} fontSize="8.5" fill="var(--ink-2)">
          <path
            d={`M${62 - across(s.distance_m)} ${y(s.distance_m)}H${62 + across(s.distance_m)}`}
            stroke="var(--ink-2)"
            strokeWidth="0.6"
          />
          <text x="62" y={y(s.distance_m) - 2.5} textAnchor="middle" fill="var(--ink)">
            {s.lux.toFixed(0)} lx
          </text>
          <text x="2" y={y(s.distance_m) + 3}>
            {s.distance_m.toFixed(0)} m
          </text>
          <text x="122" y={y(s.distance_m) + 3} textAnchor="end">
            ⌀ {s.diameter_m.toFixed(1)}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** An edited copy of the file on the shelf, and the file itself to save. */
function Copy({ of }: { of: Card }) {
  const [name, setName] = useState(`${of.name}, edited`);
  const [scale, setScale] = useState(1);
  const [turn_deg, setTurn] = useState(0);
  const [symmetrise, setEven] = useState(false);
  const make = useChange(
    () => {
      const params = { path: { asset: of.asset } };
      const body = { name, scale, turn_deg, symmetrise };
      return answer(api.POST("/api/photometry/{asset}/copy", { params, body }));
    },
    { stale: "photometry", then: (card) => set({ luminaire: card.asset }) },
  );
  return (
    <Fold className="pt-1" title="Edit a copy, save the file">
      <DialLine of="copy" name="scale" value={scale} onHold={setScale} onRelease={setScale} />
      <DialLine
        of="copy"
        name="turn_deg"
        value={turn_deg}
        onHold={setTurn}
        onRelease={setTurn}
        disabled={symmetrise}
      />
      <label className="flex items-center gap-2 py-[2px]">
        <Tick checked={symmetrise} onChange={(on) => setEven(on)} />
        Even all around its axis
      </label>
      <div className="flex gap-1 py-[2px]">
        <input
          className="entry min-w-0 flex-1"
          aria-label="Name of the copy"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button className="button" onClick={() => make.mutate()}>
          Keep
        </button>
      </div>
      <a
        className="underline"
        href={`/api/photometry/${of.asset}/file?name=${encodeURIComponent(of.name)}`}
        download
      >
        Save as LM-63
      </a>
    </Fold>
  );
}
