import { Scroll } from "../ui/Scroll";
import { Row } from "../ui/Row";
import type { Fixture, Project, Schemas } from "../api/types";
import { Amount } from "../ui/Amount";
import { DialLine } from "../parts/DialLine";
import { AmountOfLight, type PerLumen } from "../parts/AmountOfLight";
import { CircuitOf, GroupOf } from "../parts/GroupOf";
import { Hue } from "../parts/Hue";
import { Repeat } from "../parts/Repeat";
import { Burns, Seen, TooNear } from "../parts/Seen";
import { Section } from "../ui/Section";
import { Shelf } from "../parts/Shelf";
import { edit, removeRow } from "../state/edits";
import { hold, release } from "../state/held";
import { merge } from "../state/merge";
import { set, useStudio } from "../state/store";
import { useVocabulary } from "../state/vocabulary";
import { Tick } from "../ui/Tick";
import { Cheat, Tip } from "../ui/Tip";

/** Fields of a fixture that are numbers. */
type NumberKey = { [K in keyof Fixture]: Fixture[K] extends number ? K : never }[keyof Fixture];

/** Numbers of a fixture as they are read, by their unit. */
const WRITTEN: Record<Schemas["Quantity"]["unit"], (v: number) => string> = {
  m: (v) => `${v.toFixed(2)} m`,
  "°": (v) => `${v.toFixed(0)}°`,
  share: (v) => `${(v * 100).toFixed(0)} %`,
};

/** Lamps: add by clicking the picture, then set amount, colour, size and place. */
export function Fixtures() {
  const sources = useStudio((s) => s.project?.sources);
  const selected = useStudio((s) => s.selected);
  const placing = useStudio((s) => s.placing);
  const { shapes } = useVocabulary();
  const chosen = sources?.find((s) => s.id === selected);
  const isFill = (s: Project["sources"][number]) =>
    s.settings.kind === "fixture" && s.settings.fill;
  const fills = sources?.filter(isFill) ?? [];
  const lamps = sources?.filter((s) => !isFill(s)) ?? [];
  return (
    <>
      <Section title="Add a fixture" aside="lands where you click">
        <div className="grid grid-cols-3 gap-2">
          {shapes
            .filter((s) => !s.from_file)
            .map(({ id: shape, label }) => (
              <button
                key={shape}
                className={`button flex-1 ${placing === shape ? "bg-chosen! text-on-chosen" : ""}`}
                aria-pressed={placing === shape}
                onClick={() => set({ placing: placing === shape ? null : shape })}
              >
                {label}
              </button>
            ))}
        </div>
        <Landing />
      </Section>
      <Shelf />
      <Section title="Fixtures" aside={`${lamps.length}`}>
        {sources?.length === 0 && (
          <p className="text-ink-2">
            No lamps yet. Choose a shape above, then click a ceiling, wall or table in the picture.
          </p>
        )}
        <Rows of={lamps} />
      </Section>
      {fills.length > 0 && (
        <Section title="Fills" aside={<Cheat why="Only for the picture" />}>
          <Rows of={fills} />
        </Section>
      )}
      {chosen?.settings.kind === "fixture" && (
        <Selected
          key={chosen.id}
          id={chosen.id}
          name={chosen.name}
          saved={chosen.settings}
          perLumen={chosen.per_lumen}
        />
      )}
      {chosen?.settings.kind === "glow" && (
        <Section title={chosen.name}>
          <p className="text-ink-2">
            Light of the material “{chosen.settings.material}” of the model. Its level is on the
            strip.
          </p>
        </Section>
      )}
    </>
  );
}

/** How the next lamp lands: off its surface, and drawn to what is near. */
function Landing() {
  const landing = useStudio((s) => s.landing);
  return (
    <>
      <DialLine
        of="landing"
        name="off_m"
        value={landing.off_m}
        write={(v) => (v === 0 ? "on it" : `${v.toFixed(2)} m`)}
        read={(t) => Number.parseFloat(t) || 0}
        onHold={(off_m) => set({ landing: { ...landing, off_m } })}
        onRelease={(off_m) => set({ landing: { ...landing, off_m } })}
      />
      <Tip text="The middle and the axes of the room, lines and rows of lamps, the inside of a lamp body">
        <label className="flex items-center gap-2 py-[3px]">
          <Tick
            checked={landing.snap}
            onChange={(on) => set({ landing: { ...landing, snap: on } })}
          />
          Drawn to room, rows and lamp bodies
        </label>
      </Tip>
    </>
  );
}

/** Sources as a list to choose from, with how many and how much. */
function Rows({ of }: { of: Project["sources"] }) {
  const selected = useStudio((s) => s.selected);
  return (
    <Scroll className="max-h-[168px]">
      <ul>
        {of.map((s) => (
          <li key={s.id}>
            <button
              className={`flex w-full justify-between gap-2 border-l-2 py-[3px] pl-2 text-left ${s.id === selected ? "border-sun font-[650]" : "border-transparent text-ink-2 hover:text-ink"}`}
              aria-pressed={s.id === selected}
              onClick={() => set({ selected: s.id })}
            >
              <span className="truncate">{s.name}</span>
              <span className="shrink-0 font-normal text-ink-2">
                {s.settings.kind === "glow"
                  ? "material"
                  : `${s.settings.places.length > 1 ? `${s.settings.places.length} × ` : ""}${s.settings.lumen.toFixed(0)} lm`}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </Scroll>
  );
}

/** What is doubtful about its amount or colour, with a click that cures it. */
function Doubts({ id, name }: { id: string; name: string }) {
  const doubts = useStudio((s) => s.project?.sources.find((q) => q.id === id)?.doubts);
  return doubts?.map((d) => (
    <p key={d.text} className="my-1 text-sun-ink" role="note">
      {d.text}{" "}
      <button
        className="underline"
        onClick={() => void edit("source", id, { settings: d.settings }, `${d.remedy}: ${name}`)}
      >
        {d.remedy}
      </button>
    </p>
  ));
}

function Selected({
  id,
  name,
  saved,
  perLumen,
}: {
  id: string;
  name: string;
  saved: Fixture;
  perLumen: PerLumen | null;
}) {
  const held = useStudio((s) => s.held?.sources?.[id]);
  const landedAt = useStudio((s) => s.landedAt);
  const f = held ? merge(saved, held) : saved;
  const take = (patch: Partial<Fixture>, moving = false) =>
    hold({ sources: { [id]: patch as Record<string, unknown> } }, moving);
  const { shapes } = useVocabulary();
  const shape = shapes.find((s) => s.id === f.shape);
  const first = f.places[0];
  return (
    <Section
      title={name}
      aside={
        <button className="quiet underline" onClick={() => void removeRow("source", id)}>
          Remove
        </button>
      }
    >
      {landedAt?.id === id && (
        <p className="text-ink-2" role="note">
          It was drawn to {landedAt.to}. Alt while clicking puts one freely.
        </p>
      )}
      <Row label="Name">
        <input
          className="entry"
          defaultValue={name}
          onBlur={(e) =>
            e.target.value.trim() &&
            e.target.value !== name &&
            void edit("source", id, { name: e.target.value.trim() }, "Rename")
          }
        />
      </Row>
      <GroupOf id={id} group={f.group} />
      <CircuitOf id={id} circuit={f.circuit} />
      <AmountOfLight
        fixture={f}
        perLumen={perLumen}
        onHold={(lumen) => take({ lumen })}
        onRelease={() => void release(`Amount of ${name}`)}
        onUnit={(unit) => void edit("source", id, { settings: { unit } }, "Unit")}
        onEfficacy={(efficacy) => void edit("source", id, { settings: { efficacy } }, "Efficacy")}
      />
      <Hue fixture={f} id={id} name={name} onHold={(kelvin) => take({ kelvin, colour: null })} />
      {shape?.quantities.map((q) => (
        <Amount
          key={q.key}
          label={q.label}
          value={f[q.key as NumberKey]}
          min={q.low}
          max={q.high}
          step={q.step}
          normal={q.normal}
          logarithmic={q.logarithmic}
          write={(v) => (v === 0 && q.none) || WRITTEN[q.unit](v)}
          onHold={(v) => take({ [q.key]: v }, true)}
          onRelease={() => void release(`${q.label} of ${name}`)}
        />
      ))}
      {shape?.from_file && (
        <p className="text-ink-2">Spreads its light as the file “{f.photometry_name}” says.</p>
      )}
      <Seen id={id} fixture={f} />
      <TooNear id={id} name={name} fixture={f} />
      <Burns id={id} name={name} />
      <Doubts id={id} name={name} />
      <Tip text="Turn all copies so that they shine at a point">
        <button className="button" onClick={() => set({ picking: "aim", placing: null })}>
          Aim by a click
        </button>
      </Tip>
      {first && f.places.length === 1 && (
        <div className="mt-1">
          {(["x", "y", "z"] as const).map((axis, i) => (
            <Amount
              key={axis}
              label={["East", "North", "Height"][i] ?? axis}
              value={first.position[i] ?? 0}
              min={(saved.places[0]?.position[i] ?? 0) - 4}
              max={(saved.places[0]?.position[i] ?? 0) + 4}
              anywhere
              step={0.01}
              normal={saved.places[0]?.position[i] ?? 0}
              write={(v) => `${v.toFixed(2).replace("-", "−")} m`}
              onHold={(v) => {
                const position: [number, number, number] = [...first.position];
                position[i] = v;
                take({ places: [{ ...first, position }] }, true);
              }}
              onRelease={() => void release(`Move ${name}`)}
            />
          ))}
        </div>
      )}
      <label className="flex items-center gap-2 py-[3px]">
        <Tick
          checked={f.fill}
          onChange={(on) => void edit("source", id, { settings: { fill: on } }, "Fill")}
        />
        <span>
          A fill, only for the picture <Cheat why="A cheat: no lamp stands there" />
        </span>
      </label>
      <Repeat id={id} copies={f.places.length} />
    </Section>
  );
}
