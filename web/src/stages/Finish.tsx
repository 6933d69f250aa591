import type { Look } from "../api/types";
import { DialLine } from "../parts/DialLine";
import { Backdrop } from "../parts/Backdrop";
import { Choice } from "../ui/Choice";
import { Curves, DecisionList } from "../parts/Curves";
import { Lut } from "../parts/Lut";
import { KeptFinishes } from "../parts/KeptFinishes";
import { FinishLine } from "../parts/FinishLine";
import { PartGrades } from "../parts/PartGrades";
import { Section } from "../ui/Section";
import { ToneCurve } from "../parts/ToneCurve";
import { percent } from "../parts/words";
import { askStart } from "../state/asking";
import { editLook } from "../state/edits";
import { hold, release } from "../state/held";
import { lookRow, useLookOf } from "../state/look";
import { set, useStudio } from "../state/store";
import { Tick } from "../ui/Tick";
import { Select } from "../ui/Select";
import { Cheat, Tip } from "../ui/Tip";
import { useVocabulary } from "../state/vocabulary";

/** Everything after light: tone, grade, lens, occlusion, haze. Never traces a picture. */
export function Finish() {
  const look = useLookOf("exposure", "finish");
  if (!look) return null;
  return (
    <>
      <Start />
      <Tone tone={look.exposure.tone} />
      <Section title="Light">
        <FinishLine group="grade" name="shadows" />
        <FinishLine group="grade" name="contrast" />
        <FinishLine group="grade" name="pivot" />
        <FinishLine group="grade" name="compression" />
        <FinishLine group="grade" name="compression_start" />
      </Section>
      <Section title="Colour">
        <FinishLine group="grade" name="saturation" />
        <FinishLine group="grade" name="vibrance" />
        <h3 className="pt-1 text-ink-2">Split tone: cold to warm</h3>
        <FinishLine group="grade" name="warm_lights" />
        <FinishLine group="grade" name="warm_shadows" />
        <DialLine
          of="exposure"
          name="tint"
          value={look.exposure.tint}
          onHold={(tint) => hold({ look: { exposure: { tint } } }, false)}
          onRelease={() => void release("Tint")}
        />
      </Section>
      <Curves grade={look.finish.grade} />
      <Lut grade={look.finish.grade} />
      <DecisionList grade={look.finish.grade} />
      <Section title="Lens">
        <FinishLine group="glare" name="glow" />
        <FinishLine group="glare" name="spread" />
        <FinishLine group="glare" name="star" />
        <FinishLine group="glare" name="blades" />
        <FinishLine group="glare" name="rotation_deg" />
        <FinishLine group="lens" name="vignette" />
        <FinishLine group="lens" name="grain" />
        <FinishLine group="lens" name="sharpen" />
      </Section>
      <Backdrop backdrop={look.finish.backdrop} />
      <PartGrades parts={look.finish.parts} />
      <Section title="Ambient occlusion" aside="on even light">
        <FinishLine group="occlusion" name="amount" />
        <FinishLine group="occlusion" name="radius_m" />
        <FinishLine group="occlusion" name="white" />
      </Section>
      <Section title="Depth haze" aside={<Cheat why="A cheat: no air is traced" />}>
        <FinishLine group="haze" name="per_metre" />
        <FinishLine group="haze" name="stops" />
        <FinishLine group="haze" name="kelvin" />
      </Section>
      <Screen />
      <p className="py-2 text-ink-2">
        Hold T to see the light as it was traced. Nothing here renders again, but for the sky behind
        a backdrop.
      </p>
    </>
  );
}

/** Soft proof: which colours an sRGB screen cannot show. */
function Screen() {
  const reading = useStudio((s) => s.reading);
  const beyond = useStudio((s) => s.frame?.beyond);
  return (
    <Section title="Gamut">
      <label className="flex items-center gap-2 py-[2px]">
        <Tick
          checked={reading === "gamut"}
          onChange={(on) => set({ reading: on ? "gamut" : "plain" })}
        />
        Mark colours beyond sRGB
      </label>
      {reading === "gamut" && beyond != null && (
        <p className="text-ink-2" data-testid="beyond">
          {beyond < 0.0005
            ? "Every screen shows all of this picture."
            : `${percent(beyond)} of the picture is paler on an sRGB screen; stills for Display P3 keep it.`}
        </p>
      )}
    </Section>
  );
}

/** Starting points worked out from the picture, other looks to copy from, and the way back. */
function Start() {
  const looks = useStudio((s) => s.project?.looks);
  const current = useStudio(lookRow);
  if (!looks || !current) return null;
  const others = looks.filter((l) => l.id !== current.id);
  return (
    <Section
      title="Start"
      aside={
        <button
          className="quiet underline"
          onClick={() => void editLook({ finish: null as never }, "Clear the finish")}
        >
          Clear all
        </button>
      }
    >
      <div className="grid grid-cols-3 gap-1">
        {(["flat", "natural", "strong"] as const).map((mood) => (
          <Tip
            key={mood}
            text={`Contrast, shadows and highlights for a ${mood} picture, from its histogram`}
          >
            <button
              className="button capitalize"
              onClick={async () => {
                const grade = await askStart(mood);
                void editLook({ finish: { grade } }, `Start ${mood}`);
              }}
            >
              {mood}
            </button>
          </Tip>
        ))}
      </div>
      {others.length > 0 && (
        <Select
          className="mt-2 w-full"
          label="Copy the finish of another look"
          value=""
          placeholder="Copy the finish of …"
          options={others.map((l) => ({ value: l.id, label: l.name }))}
          onPick={(picked) => {
            const from = others.find((l) => l.id === picked);
            if (!from) return;
            const { finish, exposure } = from.settings;
            void editLook(
              { finish, exposure: { tone: exposure.tone, tint: exposure.tint } },
              `Finish of ${from.name}`,
            );
          }}
        />
      )}
      <KeptFinishes look={current.id} />
    </Section>
  );
}

function Tone({ tone }: { tone: Look["exposure"]["tone"] }) {
  const { tones } = useVocabulary();
  return (
    <Section title="Tone" aside="of this look">
      <Choice
        label="Tone"
        value={tone}
        options={tones.map((t) => ({ value: t.id, label: t.label }))}
        onChoose={(t) => void editLook({ exposure: { tone: t } }, "Tone")}
      />
      <p className="mt-2 mb-1 text-ink-2">{tones.find((t) => t.id === tone)?.does}</p>
      <ToneCurve />
      {tone === "film" && (
        <>
          <FinishLine group="grade" name="toe" />
          <FinishLine group="grade" name="shoulder" />
          <FinishLine group="grade" name="mid" />
        </>
      )}
    </Section>
  );
}
