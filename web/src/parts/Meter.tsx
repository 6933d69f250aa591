import { useState } from "react";
import type { Project, Reading } from "../api/types";
import { askBalance } from "../state/asking";
import { editLook } from "../state/edits";
import { groupKey, NO_MIX, sourceList, useLookOf } from "../state/look";
import { set, useStudio } from "../state/store";
import { Amount } from "../ui/Amount";
import { Section } from "../ui/Section";
import { percent, signed } from "./words";

/** Sources named under a reading; the rest is too little to matter. */
const NAMED = 5;

/** Three figures of any size. */
export const three = (v: number) =>
  v >= 1000 ? Math.round(v).toLocaleString("en") : Number(v.toPrecision(3)).toString();

/** Readings pinned in the picture, and who makes the light there. */
export function Meter() {
  const project = useStudio((s) => s.project);
  const look = useLookOf("mix", "sky");
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
      <Suggestion names={names} />
      {a && b && (
        <p className="pt-2">
          1 to 2: <b>{Math.abs(a.log2_luminance - b.log2_luminance).toFixed(1)} stops</b>{" "}
          <span className="text-ink-2">
            ({three(2 ** Math.abs(a.log2_luminance - b.log2_luminance))} : 1
            {a.kelvin !== null && b.kelvin !== null && `, ${warmer(a.kelvin, b.kelvin)}`})
          </span>
        </p>
      )}
      {a && b && (
        <Usual
          ratios={project.usual_ratios}
          stops={Math.abs(a.log2_luminance - b.log2_luminance)}
        />
      )}
    </Section>
  );
}

/** What is usual in pictures of rooms; the one this ratio falls in stands out. */
function Usual({ ratios, stops }: { ratios: Project["usual_ratios"]; stops: number }) {
  return (
    <ul className="text-small text-ink-2" aria-label="Usual ratios">
      {ratios.map(([what, from, to]) => (
        <li
          key={what}
          className={`flex justify-between ${stops >= from && stops < to ? "font-[650] text-ink" : ""}`}
        >
          <span>{what}</span>
          <span>
            {from.toFixed(0)}–{to.toFixed(0)} stops
          </span>
        </li>
      ))}
    </ul>
  );
}

/** Which of two readings is warmer, and by how much. */
function warmer(a: number, b: number) {
  const apart = Math.round(Math.abs(a - b) / 50) * 50;
  return apart === 0 ? "of one colour" : `${a < b ? "1" : "2"} is ${apart} K warmer`;
}

const wishFor = (i: number, wish: number) =>
  set((s) => ({ readings: s.readings.map((r, k) => (k === i ? { ...r, wish } : r)) }));

/** Levels that would bring the pinned places to what is wished for them, beside those that are. */
function Suggestion({ names }: { names: Record<string, string> }) {
  const look = useLookOf("mix", "sky");
  const project = useStudio((s) => s.project);
  const readings = useStudio((s) => s.readings);
  const [made, setMade] = useState<Awaited<ReturnType<typeof askBalance>> | null>(null);
  const wished = readings.filter((r) => r.wish !== undefined);
  if (!look || wished.length === 0) return null;
  const groups = Object.fromEntries(
    (project ? sourceList(project, look) : []).map((s) => [s.id, s.group]),
  );
  // What is suggested is the whole level of a source; its group's stays as it is.
  const whole = (id: string) => (groups[id] ? (look.mix[groupKey(groups[id])]?.level ?? 0) : 0);
  const now = (id: string) => (look.mix[id]?.level ?? 0) + whole(id);
  const moved = Object.entries(made?.levels ?? {}).filter(
    ([id, level]) => Math.abs(level - now(id)) > 0.049,
  );
  const take = () => {
    const mix = Object.fromEntries(
      moved.map(([id, level]) => [id, { ...NO_MIX, ...look.mix[id], level: level - whole(id) }]),
    );
    void editLook({ mix }, "Suggested balance");
    setMade(null);
  };
  return (
    <div className="mt-2" data-testid="suggestion">
      <button
        className="button w-full"
        onClick={async () =>
          setMade(await askBalance(readings.map((r) => [r.x, r.y, r.wish ?? r.stops])))
        }
      >
        Suggest levels for {wished.length === 1 ? "this wish" : `${wished.length} wishes`}
      </button>
      {made && moved.length === 0 && (
        <p className="mt-1 text-ink-2">No source can bring it nearer than it is.</p>
      )}
      {moved.length > 0 && (
        <>
          <ul className="mt-1">
            {moved.map(([id, level]) => (
              <li key={id} className="flex justify-between">
                <span className="truncate">{names[id] ?? id}</span>
                <span className="text-ink-2">
                  {signed(now(id))} → <b className="text-ink">{signed(level)} EV</b>
                </span>
              </li>
            ))}
          </ul>
          <p className="text-ink-2">
            Reaches {made?.reached.map((v) => signed(v)).join(", ")} EV from grey.
          </p>
          <button className="button mt-1" onClick={take}>
            Take these levels
          </button>
        </>
      )}
    </div>
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
      <Amount
        label="Wish"
        value={p.reading.wish ?? p.reading.stops}
        min={-8}
        max={8}
        step={0.1}
        normal={Math.round(p.reading.stops * 10) / 10}
        write={(v) => (p.reading.wish === undefined ? "as it is" : `${signed(v)} EV`)}
        onHold={(wish) => wishFor(p.number - 1, wish)}
        onRelease={(wish) => wishFor(p.number - 1, wish)}
      />
      <div className="pt-[2px] text-small text-ink-2">
        {shares.map(([id, share]) => `${p.names[id] ?? id} ${percent(share)}`).join(" · ")}
        {p.reading.kelvin !== null && ` · light of ${p.reading.kelvin} K`}
        {p.reading.sun_over_sky !== null && ` · sun ${signed(p.reading.sun_over_sky)} EV over sky`}
      </div>
    </li>
  );
}
