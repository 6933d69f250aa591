import type { Look } from "../api/types";
import { Amount } from "../ui/Amount";
import { Backdrop } from "../parts/Backdrop";
import { Choice } from "../ui/Choice";
import { Curves, DecisionList } from "../parts/Curves";
import { Lut } from "../parts/Lut";
import { KeptFinishes } from "../parts/KeptFinishes";
import { line, plus, readShare, SHARE } from "../parts/FinishLine";
import { PartGrades } from "../parts/PartGrades";
import { Section } from "../ui/Section";
import { ToneCurve } from "../parts/ToneCurve";
import { percent } from "../parts/words";
import { askStart } from "../state/asking";
import { editLook } from "../state/edits";
import { hold, release } from "../state/held";
import { lookRow, useLook } from "../state/look";
import { set, useStudio } from "../state/store";
import { Tick } from "../ui/Tick";
import { Select } from "../ui/Select";
import { Cheat, Tip } from "../ui/Tip";
import { useVocabulary } from "../state/vocabulary";

/** Everything after light: tone, grade, lens, occlusion, haze. Never traces a picture. */
export function Finish() {
  const look = useLook();
  if (!look) return null;
  return (
    <>
      <Start />
      <Tone look={look} />
      <Section title="Light">
        {line("grade", "shadows", "Shadows", -2, 2, 0.05, 0, plus(2, " EV"))}
        {line("grade", "contrast", "Contrast", 0.5, 1.8, 0.01, 1, (v) => v.toFixed(2))}
        {line("grade", "pivot", "Pivot", -3, 3, 0.1, 0, plus(1, " EV"))}
        {line("grade", "compression", "Highlights", 0, 1, 0.01, 0, ...SHARE)}
        {line(
          "grade",
          "compression_start",
          "Compress from",
          0.2,
          5,
          0.1,
          2,
          (v) => `−${v.toFixed(1)} EV`,
          { read: (t) => Math.abs(Number.parseFloat(t.replace("−", ""))) },
        )}
      </Section>
      <Section title="Colour">
        {line("grade", "saturation", "Saturation", 0, 2, 0.01, 1, ...SHARE)}
        {line("grade", "vibrance", "Vibrance", -1, 1, 0.01, 0, plus(2))}
        <h3 className="pt-1 text-ink-2">Split tone: cold to warm</h3>
        {line("grade", "warm_lights", "In highlights", -1, 1, 0.01, 0, plus(2))}
        {line("grade", "warm_shadows", "In shadows", -1, 1, 0.01, 0, plus(2))}
        <Amount
          label="Tint"
          value={look.exposure.tint}
          min={-30}
          max={30}
          step={0.5}
          normal={0}
          write={plus(1)}
          onHold={(tint) => hold({ look: { exposure: { tint } } }, false)}
          onRelease={() => void release("Tint")}
        />
      </Section>
      <Curves grade={look.finish.grade} />
      <Lut grade={look.finish.grade} />
      <DecisionList grade={look.finish.grade} />
      <Section title="Lens">
        {line("glare", "glow", "Glow", 0, 0.4, 0.005, 0, (v) => `${(v * 100).toFixed(1)} %`, {
          read: readShare,
        })}
        {line(
          "glare",
          "spread",
          "Glow width",
          0.004,
          0.1,
          0.001,
          0.02,
          (v) => `${(v * 100).toFixed(1)} %`,
          { read: readShare, logarithmic: true },
        )}
        {line("glare", "star", "Star", 0, 0.3, 0.005, 0, (v) => `${(v * 100).toFixed(1)} %`, {
          read: readShare,
        })}
        {line("glare", "blades", "Star blades", 3, 12, 1, 6, (v) => v.toFixed(0))}
        {line("glare", "rotation_deg", "Star angle", 0, 180, 1, 10, (v) => `${v.toFixed(0)}°`)}
        {line("lens", "vignette", "Vignette", 0, 2, 0.05, 0, (v) => `${v.toFixed(2)} EV`)}
        {line("lens", "grain", "Grain", 0, 0.3, 0.005, 0, (v) => `${v.toFixed(3)} EV`)}
        {line("lens", "sharpen", "Sharpness", 0, 1, 0.01, 0, ...SHARE)}
      </Section>
      <Backdrop backdrop={look.finish.backdrop} />
      <PartGrades parts={look.finish.parts} />
      <Section title="Ambient occlusion" aside="on even light">
        {line("occlusion", "amount", "Amount", 0, 1, 0.01, 0, ...SHARE)}
        {line("occlusion", "radius_m", "Radius", 0.05, 5, 0.05, 0.6, (v) => `${v.toFixed(2)} m`, {
          logarithmic: true,
        })}
        {line("occlusion", "white", "White level", 0.2, 1, 0.01, 0.9, ...SHARE)}
      </Section>
      <Section title="Depth haze" aside={<Cheat why="A cheat: no air is traced" />}>
        {line(
          "haze",
          "per_metre",
          "Per metre",
          0,
          0.1,
          0.001,
          0,
          (v) => `${(v * 100).toFixed(1)} %`,
          { read: readShare },
        )}
        {line("haze", "stops", "Brightness", -4, 4, 0.1, 1, plus(1, " EV"))}
        {line("haze", "kelvin", "Colour", 2000, 15000, 100, 7500, (v) => `${v.toFixed(0)} K`, {
          logarithmic: true,
        })}
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

function Tone({ look }: { look: Look }) {
  const { tone } = look.exposure;
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
          {line("grade", "toe", "Toe", 0, 1, 0.01, 0.4, ...SHARE)}
          {line("grade", "shoulder", "Shoulder", 0, 1, 0.01, 0.5, ...SHARE)}
          {line("grade", "mid", "Middle", -2, 2, 0.05, 0, plus(2, " EV"))}
        </>
      )}
    </Section>
  );
}
