import { useState } from "react";
import type { Mix } from "../api/types";
import { Choice } from "../parts/Choice";
import { ContactSheet } from "../parts/ContactSheet";
import { LevelsTogether } from "../parts/LevelsTogether";
import { Meter } from "../parts/Meter";
import { Proofs } from "../parts/Proofs";
import { Section } from "../parts/Section";
import { Amount } from "../parts/Amount";
import { percent, signed } from "../parts/words";
import {
  editLook,
  groupKey,
  hold,
  NO_MIX,
  release,
  set,
  sourceList,
  useLook,
  useStudio,
} from "../state/studio";

/** All levels of the look on one page, with what each source burns by itself. */
export function Balance() {
  const project = useStudio((s) => s.project);
  const look = useLook();
  const reading = useStudio((s) => s.reading);
  const byThemselves = useStudio((s) => s.printsByThemselves);
  if (!project || !look) return null;
  const sources = sourceList(project, look);
  const groups = [...new Set(sources.map((s) => s.group).filter(Boolean))].sort();
  const loose = sources.filter((s) => !s.group);
  const cleared = Object.fromEntries(
    [...sources.map((s) => s.id), ...groups.map(groupKey)].map((id) => [
      id,
      { level: 0, muted: false, solo: false },
    ]),
  );
  return (
    <>
      <Section
        title="Levels"
        aside={
          <button
            className="quiet underline"
            onClick={() => void editLook({ mix: cleared }, "Clear the mix")}
          >
            All to 0, all on
          </button>
        }
      >
        {loose.map((s) => (
          <Source key={s.id} source={s} />
        ))}
        {groups.map((g) => (
          <Group key={g} name={g} members={sources.filter((s) => s.group === g)} />
        ))}
        <LevelsTogether />
      </Section>
      <Section title="Reading" aside="keys B and L">
        <Choice
          label="How the picture is read"
          value={reading}
          options={[
            { value: "plain", label: "As it is" },
            { value: "burnt", label: "Burnt" },
            { value: "luminance", label: "Luminance" },
            { value: "noise", label: "Noise" },
          ]}
          onChoose={(r) => set({ reading: r })}
        />
        <label
          className="mt-1 flex items-center gap-2"
          title="The prints below the picture show how each source spreads, not how much it adds"
        >
          <input
            type="checkbox"
            className="accent-[var(--chosen)]"
            checked={byThemselves}
            onChange={(e) => set({ printsByThemselves: e.target.checked })}
          />
          Expose each print of the strip for itself
        </label>
        <p className="mt-1 text-ink-2">Hold F to find the selected source: its light alone.</p>
      </Section>
      <Proofs />
      <Meter />
      <Section title="Looks side by side">
        <ContactSheet kinds={[{ kind: "looks", label: "All looks in this view" }]} />
      </Section>
      <Noise names={Object.fromEntries(sources.map((s) => [s.id, s.name]))} />
      <p className="pt-2 text-ink-2">
        Levels change the mix of light already traced: nothing is rendered again. +1 EV doubles a
        source.
      </p>
    </>
  );
}

type SourceLine = ReturnType<typeof sourceList>[number];

/** Level of one source, and at which it burns. */
function Source({ source: s }: { source: SourceLine }) {
  const print = useStudio((state) => state.contributions[s.id]);
  const selected = useStudio((state) => state.selected === s.id);
  return (
    <div
      className={`border-l-2 pl-2 ${selected ? "border-sun" : "border-transparent"} ${s.silent ? "opacity-50" : ""}`}
      onPointerDown={() => set({ selected: s.id })}
    >
      <div className="flex items-baseline justify-between pt-[5px]">
        <span className="flex items-center gap-2">
          <i
            className="h-[8px] w-[8px] rounded-full border border-rule"
            style={{ background: print?.colour }}
          />
          {s.name}
        </span>
        <BurnOut id={s.id} name={s.name} level={s.mix.level} />
      </div>
      <Level id={s.id} name={s.name} level={s.mix.level} />
    </div>
  );
}

function Level({ id, name, level }: { id: string; name: string; level: number }) {
  return (
    <div className="grid grid-cols-[1fr_58px] items-center gap-2">
      <Amount
        bare
        label={`Level of ${name} in the balance`}
        value={level}
        min={-8}
        max={8}
        step={0.1}
        normal={0}
        write={(v) => `${signed(v)} EV`}
        onHold={(v) => hold({ look: { mix: { [id]: { level: v } as Mix } } }, false)}
        onRelease={() => void release(`Level of ${name}`)}
      />
    </div>
  );
}

/** Sources balanced together: one level, one solo, one mute; its members below. */
function Group({ name, members }: { name: string; members: SourceLine[] }) {
  const look = useLook();
  const [open, setOpen] = useState(false);
  const key = groupKey(name);
  const mix = { ...NO_MIX, ...look?.mix[key] };
  const change = (patch: Partial<Mix>, label: string) =>
    void editLook({ mix: { [key]: patch } }, `${label} ${name}`);
  return (
    <section className="mt-2 border-t border-rule pt-1" aria-label={`Group ${name}`}>
      <div className="flex items-baseline gap-3">
        <button
          className="min-w-0 flex-1 truncate text-left font-[650]"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {name} <span className="font-normal text-ink-2">· {members.length}</span>
        </button>
        {(["solo", "muted"] as const).map((k) => (
          <button
            key={k}
            aria-pressed={mix[k]}
            aria-label={`${k === "solo" ? "Solo" : "Mute"} ${name}`}
            className={mix[k] ? "font-bold" : "text-ink-2 hover:text-ink"}
            onClick={() => change({ [k]: !mix[k] }, k === "solo" ? "Solo" : "Mute")}
          >
            {k === "solo" ? "solo" : "mute"}
          </button>
        ))}
      </div>
      <Level id={key} name={name} level={mix.level} />
      {open && members.map((s) => <Source key={s.id} source={s} />)}
    </section>
  );
}

/** Who makes the noise that is left, and what would calm it. */
function Noise({ names }: { names: Record<string, string> }) {
  const frame = useStudio((s) => s.frame);
  const look = useLook();
  const region = useStudio((s) => s.region);
  const worst = frame?.noisy[0];
  if (!frame || !worst || !look) return null;
  return (
    <Section
      title="Noise"
      aside={frame.noise === null ? "" : `${frame.grain}, ${frame.noise.toFixed(1)}`}
    >
      {frame.noisy
        .filter((n) => n.noise > 0.0005)
        .slice(0, 4)
        .map((n) => (
          <div key={n.source} className="flex justify-between">
            <span className="truncate">{names[n.source] ?? n.source}</span>
            <span className="text-ink-2">
              direct {percent(n.direct)}, bounced {percent(n.bounced)}
            </span>
          </div>
        ))}
      <p className="pt-1 text-ink-2">
        {worst.noise > 0 ? worst.remedy : "Where the noise is can be told from the third pass on."}
      </p>
      {worst.cure !== "none" && (
        <button
          className="button mt-1 mr-1"
          onClick={() =>
            void (worst.cure === "kept"
              ? editLook({ bounced: "kept" }, "Bounced light")
              : editLook({ sky: { portals: true } }, "Draw the sky through its openings"))
          }
        >
          {worst.cure === "kept" ? "Keep it on surfaces" : "Use the openings"}
        </button>
      )}
      <button
        className="button mt-1"
        aria-pressed={!!region}
        onClick={() => set({ region: null, picking: region ? null : "region", placing: null })}
      >
        {region ? "The whole picture again" : "A region first"} <kbd>R</kbd>
      </button>
      <h4 className="pt-2 pb-1">Bounced light</h4>
      <Choice
        label="How bounced light is found"
        value={look.bounced}
        options={[
          { value: "kept", label: "Kept on surfaces" },
          { value: "traced", label: "Traced" },
        ]}
        onChoose={(bounced) => void editLook({ bounced }, "Bounced light")}
      />
      <p className="pt-1 text-ink-2">
        {look.bounced === "kept"
          ? "Calm early: light is gathered on small patches of surface and bounced from there. Only what reaches the eye by a bounce is averaged, over 12 cm close by."
          : "Every path is followed to its end: exact, and slower to clear."}{" "}
        Hold N for the picture before denoising.
      </p>
    </Section>
  );
}

/** At which level a source by itself begins to burn, and a step to just below. */
function BurnOut({ id, name, level }: { id: string; name: string; level: number }) {
  const print = useStudio((s) => s.contributions[id]);
  if (!print || print.headroom === null || print.just_below === null) return null;
  const at = level + print.headroom;
  if (at > 8 || at < -8) return null;
  const just = level + print.just_below;
  return (
    <button
      className={`text-[11.5px] hover:underline ${print.headroom < 0 ? "text-sun" : "text-ink-2"}`}
      title="Bring it just below burning"
      onClick={() =>
        void editLook({ mix: { [id]: { level: just } as Mix } }, `${name} just below burning`)
      }
    >
      {print.headroom < 0 ? "burns" : "burns at"} {signed(at)} EV
    </button>
  );
}
