import { useVocabulary } from "../state/vocabulary";
import type { Mix } from "../api/types";
import { Choice } from "../ui/Choice";
import { ContactSheet } from "../parts/ContactSheet";
import { GroupOf } from "../parts/GroupOf";
import { LevelsTogether } from "../parts/LevelsTogether";
import { LightScenes } from "../parts/LightScenes";
import { Meter } from "../parts/Meter";
import { Proofs } from "../parts/Proofs";
import { Reference } from "../parts/Reference";
import { Section } from "../ui/Section";
import { percent, signed } from "../parts/words";
import { editLook } from "../state/edits";
import { groupKey, sourceList, useLookOf, useLookPart, type SourceLine } from "../state/look";
import { set, useStudio } from "../state/store";
import { orderStrip, useStrip } from "../state/strip";
import { Tick } from "../ui/Tick";
import { Tip } from "../ui/Tip";

/** What the strip cannot say of the mix: ratios, groups, wishes and proofs. */
export function Balance() {
  const project = useStudio((s) => s.project);
  const look = useLookOf("mix", "sky");
  const reading = useStudio((s) => s.reading);
  const { readings } = useVocabulary();
  const byThemselves = useStudio((s) => s.printsByThemselves);
  const selected = useStudio((s) => s.selected);
  const order = useStrip((s) => s.order);
  if (!project || !look) return null;
  const sources = sourceList(project, look);
  const groups = [...new Set(sources.map((s) => s.group).filter(Boolean))].sort();
  const cleared = Object.fromEntries(
    [...sources.map((s) => s.id), ...groups.map(groupKey)].map((id) => [
      id,
      { level: 0, muted: false, solo: false },
    ]),
  );
  const one = sources.find((s) => s.id === selected) ?? sources[0];
  return (
    <>
      {one && <Selected source={one} sources={sources} />}
      <Section
        title="All levels"
        aside={
          <button
            className="quiet underline"
            onClick={() => void editLook({ mix: cleared }, "Clear the mix")}
          >
            All to 0, all on
          </button>
        }
      >
        <LevelsTogether />
        <h3 className="pt-2 pb-1 text-ink-2">Order of the strip</h3>
        <Choice
          label="Order of the strip"
          value={order}
          options={[
            { value: "given", label: "As placed" },
            { value: "share", label: "Brightest first" },
          ]}
          onChoose={orderStrip}
        />
        <p className="pt-1 text-ink-2">
          Drag a lamp by its name in the strip, or Alt with an arrow key, to place it.
        </p>
      </Section>
      <LightScenes />
      <Section
        title="Overlay"
        aside={`keys ${readings.flatMap((r) => r.key.toUpperCase() || []).join(" and ")}`}
      >
        <Choice
          label="What lies over the picture"
          value={reading}
          options={readings.map((r) => ({ value: r.id, label: r.label }))}
          onChoose={(r) => set({ reading: r })}
        />
        <Tip text="The prints below the picture show how each source spreads, not how much it adds">
          <label className="mt-1 flex items-center gap-2">
            <Tick checked={byThemselves} onChange={(on) => set({ printsByThemselves: on })} />
            Expose each print of the strip for itself
          </label>
        </Tip>
        <p className="mt-1 text-ink-2">Hold F to find the selected source: its light alone.</p>
      </Section>
      <Proofs />
      <Reference />
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

/** The selected source against the others: its ratios, where it clips, and its group. */
function Selected({ source: s, sources }: { source: SourceLine; sources: SourceLine[] }) {
  const prints = useStudio((state) => state.contributions);
  const lamp = useStudio((state) => state.project?.sources.find((row) => row.id === s.id));
  const mine = prints[s.id]?.share ?? null;
  const others = sources
    .filter((o) => o.id !== s.id && !o.silent)
    .map((o) => ({ ...o, share: prints[o.id]?.share ?? 0 }))
    .filter((o) => o.share > 0.0005)
    .sort((a, b) => b.share - a.share)
    .slice(0, 6);
  return (
    <Section title={s.name} aside={mine === null ? "" : `${percent(mine)} of the light`}>
      <ClipsAt id={s.id} name={s.name} level={s.mix.level} />
      {mine !== null && mine > 0 && others.length > 0 ? (
        <dl
          className="mt-1 grid grid-cols-[1fr_auto_auto] gap-x-3 gap-y-[2px]"
          aria-label={`Ratios of ${s.name}`}
        >
          {others.map((o) => (
            <Ratio key={o.id} name={o.name} stops={Math.log2(mine / o.share)} />
          ))}
        </dl>
      ) : (
        <p className="text-ink-2">
          {mine === 0 || mine === null
            ? "None of its light is in this picture now."
            : "It is the only light in this picture."}
        </p>
      )}
      {lamp && <GroupOf id={s.id} group={lamp.settings.group} />}
    </Section>
  );
}

function Ratio({ name, stops }: { name: string; stops: number }) {
  const ratio = 2 ** Math.abs(stops);
  const said = ratio >= 9.95 ? ratio.toFixed(0) : ratio.toFixed(1);
  return (
    <>
      <dt className="truncate text-ink-2">to {name}</dt>
      <dd>{signed(stops)} EV</dd>
      <dd className="text-right text-ink-2">{stops >= 0 ? `${said} : 1` : `1 : ${said}`}</dd>
    </>
  );
}

/** Who makes the noise that is left, and what would calm it. */
function Noise({ names }: { names: Record<string, string> }) {
  const frame = useStudio((s) => s.frame);
  const bounced = useLookPart("bounced");
  const region = useStudio((s) => s.region);
  const split = useStudio((s) => s.split);
  const clamp = useStudio((s) => s.clamp);
  const worst = frame?.noisy[0];
  if (!frame || frame.empty || !bounced) return null;
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
        {worst && worst.noise > 0
          ? worst.remedy
          : "Where the noise is can be told from the third pass on."}
      </p>
      {worst && worst.cure !== "none" && (
        <button
          className="button mt-1 mr-1"
          onClick={() =>
            void (worst.cure === "kept"
              ? editLook({ bounced: "kept" }, "Bounced light")
              : editLook({ sky: { portals: true } }, "Draw the sky through its openings"))
          }
        >
          {worst.cure === "kept" ? "Use the light cache" : "Use the openings"}
        </button>
      )}
      <button
        className="button mt-1"
        aria-pressed={!!region}
        onClick={() => set({ region: null, picking: region ? null : "region", placing: null })}
      >
        {region ? "The whole picture again" : "A region first"} <kbd>R</kbd>
      </button>{" "}
      <button
        className="button mt-1"
        aria-pressed={split !== null}
        onClick={() => set({ split: split === null ? 0.5 : null })}
      >
        Raw beside denoised
      </button>{" "}
      <button className="button mt-1" aria-pressed={clamp} onClick={() => set({ clamp: !clamp })}>
        Clamp speckles
      </button>
      {clamp && frame.clamped !== null && (
        <p className="pt-1 text-ink-2" role="status">
          {frame.clamped > 0
            ? `The clamp takes ${(frame.clamped * 100).toFixed(2)} % of the light.`
            : "The clamp takes nothing."}{" "}
          Stills have a clamp of their own, in Handover.
        </p>
      )}
      <h3 className="pt-2 pb-1">Bounced light</h3>
      <Choice
        label="How bounced light is found"
        value={bounced}
        options={[
          { value: "kept", label: "Light cache" },
          { value: "traced", label: "Path traced" },
        ]}
        onChoose={(bounced) => void editLook({ bounced }, "Bounced light")}
      />
      <p className="pt-1 text-ink-2">
        {bounced === "kept"
          ? "Calm early: light is gathered on small patches of surface and bounced from there. Only what reaches the eye by a bounce is averaged, over 12 cm close by."
          : "Every path is followed to its end: exact, and slower to clear."}{" "}
        Hold N for the picture before denoising.
      </p>
    </Section>
  );
}

/** At which level a source by itself begins to clip, and a step to just below. */
function ClipsAt({ id, name, level }: { id: string; name: string; level: number }) {
  const print = useStudio((s) => s.contributions[id]);
  if (!print || print.headroom === null || print.just_below === null) return null;
  const at = level + print.headroom;
  if (at > 8 || at < -8) return null;
  const just = level + print.just_below;
  return (
    <p className={print.headroom < 0 ? "text-sun-ink" : "text-ink-2"}>
      By itself it {print.headroom < 0 ? "clips; it began to" : "clips"} at {signed(at)} EV.{" "}
      <button
        className="underline"
        onClick={() =>
          void editLook({ mix: { [id]: { level: just } as Mix } }, `${name} just below clipping`)
        }
      >
        Set it just below
      </button>
    </p>
  );
}
