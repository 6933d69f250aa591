import { Amount } from "../parts/Amount";
import { Choice } from "../parts/Choice";
import { Section } from "../parts/Section";
import { editLook, hold, release, useLook } from "../state/studio";

/** Tone of the picture. */
export function Finish() {
  const look = useLook();
  if (!look) return null;
  const { exposure } = look;
  return (
    <Section title="Tone" aside="of this look">
      <Choice
        label="Tone"
        value={exposure.tone}
        options={[
          { value: "natural", label: "Natural" },
          { value: "linear", label: "Linear" },
        ]}
        onChoose={(tone) => void editLook({ exposure: { tone } }, "Tone")}
      />
      <p className="mt-2 mb-2 text-ink-2">
        {exposure.tone === "natural"
          ? "The open ACES output transform: highlights roll off, colours stay believable."
          : "No compression: what is brighter than white is cut. For judging exposure."}
      </p>
      <Amount
        label="Green–mag."
        value={exposure.tint}
        min={-30}
        max={30}
        step={0.5}
        normal={0}
        write={(v) => v.toFixed(1).replace("-", "−")}
        onHold={(tint) => hold({ look: { exposure: { tint } } }, false)}
        onRelease={() => void release("Tint")}
      />
    </Section>
  );
}
