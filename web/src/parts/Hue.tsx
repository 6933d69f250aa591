import type { Fixture } from "../api/types";
import { edit, release } from "../state/studio";
import { Amount } from "./Amount";

const WARM_TO_COLD = "linear-gradient(to right, #ffb46b, #ffe4c8, #fff, #dbe6ff, #b5ceff)";

/** Usual whites of lamps. */
const WHITES: [string, number][] = [
  ["Candle", 1900],
  ["Warm white", 2700],
  ["Halogen", 3000],
  ["Neutral white", 4000],
  ["Daylight white", 5600],
  ["Skylight", 8000],
];

/** Colour of a lamp: kelvin, one of the usual whites, or any colour. */
export function Hue(p: {
  fixture: Fixture;
  id: string;
  name: string;
  onHold: (kelvin: number) => void;
}) {
  const { fixture: f } = p;
  const save = (settings: Partial<Fixture>, label: string) =>
    void edit("source", p.id, { settings }, label);
  return (
    <>
      <Amount
        label="Colour"
        value={f.kelvin}
        min={1500}
        max={10000}
        step={50}
        normal={3000}
        track={WARM_TO_COLD}
        write={(v) => (f.colour === null ? `${v.toFixed(0)} K` : "a hue")}
        onHold={p.onHold}
        onRelease={() => void release(`Kelvin of ${p.name}`)}
      />
      <div className="grid grid-cols-[78px_1fr_42px] items-center gap-2 py-[3px]">
        <span />
        <select
          className="entry"
          aria-label="Usual whites"
          value={f.colour === null ? (WHITES.find(([, k]) => k === f.kelvin)?.[1] ?? "") : ""}
          onChange={(e) => save({ kelvin: Number(e.target.value), colour: null }, "White")}
        >
          <option value="" disabled>
            {f.colour === null ? "another white" : "a hue"}
          </option>
          {WHITES.map(([label, k]) => (
            <option key={k} value={k}>
              {label} {k} K
            </option>
          ))}
        </select>
        <input
          type="color"
          aria-label={`Hue of ${p.name}`}
          title="Any hue, for coloured light"
          className="h-[22px] w-[42px] justify-self-end border border-rule bg-sheet"
          value={f.colour ?? "#ffffff"}
          onChange={(e) => save({ colour: e.target.value }, `Hue of ${p.name}`)}
        />
      </div>
    </>
  );
}
