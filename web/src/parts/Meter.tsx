import type { Reading } from "../api/types";
import { set, sourceList, useLook, useStudio } from "../state/studio";
import { Section } from "./Section";
import { percent, signed } from "./words";

/** Sources named under a reading; the rest is too little to matter. */
const NAMED = 5;

/** Three figures of any size. */
export const three = (v: number) =>
  v >= 1000 ? Math.round(v).toLocaleString("en") : Number(v.toPrecision(3)).toString();

/** Readings pinned in the picture, and who makes the light there. */
export function Meter() {
  const project = useStudio((s) => s.project);
  const look = useLook();
  const metering = useStudio((s) => s.metering);
  const readings = useStudio((s) => s.readings);
  if (!project || !look) return null;
  const names = Object.fromEntries(sourceList(project, look).map((s) => [s.id, s.name]));
  const [a, b] = readings;
  return (
    <Section
      title="Meter"
      aside={
        readings.length > 0 ? (
          <button className="quiet underline" onClick={() => set({ readings: [] })}>
            Clear
          </button>
        ) : (
          <kbd>M</kbd>
        )
      }
    >
      <button
        className={`button w-full ${metering ? "bg-chosen! text-on-chosen" : ""}`}
        aria-pressed={metering}
        onClick={() => set({ metering: !metering, placing: null })}
      >
        {metering ? "Click the picture; Esc ends" : "Pin a reading in the picture"}
      </button>
      <ol>
        {readings.map((r, i) => (
          <Pinned key={i} number={i + 1} reading={r} names={names} />
        ))}
      </ol>
      {a && b && (
        <p className="pt-2">
          1 to 2: <b>{Math.abs(a.log2_luminance - b.log2_luminance).toFixed(1)} stops</b>{" "}
          <span className="text-ink-2">({three(a.luminance / b.luminance)} : 1)</span>
        </p>
      )}
    </Section>
  );
}

function Pinned(p: { number: number; reading: Reading; names: Record<string, string> }) {
  const shares = Object.entries(p.reading.shares)
    .filter(([, share]) => share > 0.005)
    .sort((x, y) => y[1] - x[1])
    .slice(0, NAMED);
  const prints = useStudio((s) => s.contributions);
  return (
    <li className="pt-2" data-testid="reading">
      <div className="flex justify-between">
        <span>
          <b>{p.number}</b> · {three(p.reading.luminance)} cd/m²
          {p.reading.lux !== null && `, ${three(p.reading.lux)} lx`}
        </span>
        <span className="text-ink-2">{signed(p.reading.stops)} from grey</span>
      </div>
      <div
        className="mt-1 flex h-[9px] w-full overflow-hidden border border-ink bg-rule"
        role="img"
        aria-label="Share of each source"
      >
        {shares.map(([id, share]) => (
          <i
            key={id}
            className="border-r border-ink"
            style={{ width: `${share * 100}%`, background: prints[id]?.colour ?? "#888" }}
          />
        ))}
      </div>
      <div className="pt-[2px] text-[11.5px] text-ink-2">
        {shares.map(([id, share]) => `${p.names[id] ?? id} ${percent(share)}`).join(" · ")}
      </div>
    </li>
  );
}
