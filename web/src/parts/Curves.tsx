import { useState } from "react";
import { askCurve } from "../state/asking";
import { editLook } from "../state/edits";
import { hold, release } from "../state/held";
import { useStudio } from "../state/store";
import { Amount } from "../ui/Amount";
import { Choice } from "../ui/Choice";
import { Curve } from "./Curve";
import { scale } from "./dial";
import { FinishLine, type FinishState } from "./FinishLine";
import { useVocabulary } from "../state/vocabulary";
import { Section } from "../ui/Section";

const NO_BINS: number[] = [];
const CHANNELS = { curve: "var(--ink)", red: "#b5493c", green: "#4b8a4f", blue: "#4a6fae" };

/** Curves of all channels or each, over the histogram, with black and white point. */
export function Curves({ grade }: { grade: FinishState["grade"] }) {
  const histogram = useStudio((s) => s.frame?.histogram);
  const [channel, setChannel] = useState<keyof typeof CHANNELS>("curve");
  const start = async () => {
    const curve = await askCurve();
    await editLook({ finish: { grade: { curve } } }, "Curve from the picture");
    setChannel("curve");
  };
  return (
    <Section
      title="Curve"
      aside={
        <span className="flex gap-3">
          <button className="quiet underline" onClick={() => void start()}>
            From the picture
          </button>
          <button
            className="quiet underline"
            onClick={() =>
              void editLook({ finish: { grade: { [channel]: [] } } }, "Straight curve")
            }
          >
            Straight
          </button>
        </span>
      }
    >
      <Choice
        label="Channel"
        value={channel}
        options={[
          { value: "curve", label: "All" },
          { value: "red", label: "Red" },
          { value: "green", label: "Green" },
          { value: "blue", label: "Blue" },
        ]}
        onChoose={setChannel}
      />
      <Curve
        points={grade[channel] as [number, number][]}
        histogram={histogram ?? NO_BINS}
        colour={CHANNELS[channel]}
        onHold={(points) => hold({ look: { finish: { grade: { [channel]: points } } } }, false)}
        onRelease={() => void release("Curve")}
      />
      <div className="mt-1">
        <FinishLine group="grade" name="black" />
        <FinishLine group="grade" name="white" />
      </div>
    </Section>
  );
}

const DECISIONS = ["slope", "offset", "power"] as const;

/** The open colour decision list (CDL): slope, offset and power of red, green and blue, in ACEScct. */
export function DecisionList({ grade }: { grade: FinishState["grade"] }) {
  const [open, setOpen] = useState(false);
  const dials = useVocabulary().finish.grade;
  return (
    <Section
      title="CDL"
      aside={
        <button className="quiet underline" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Close" : "Open"}
        </button>
      }
    >
      {open &&
        DECISIONS.flatMap((key) => (dials?.[key] ? [{ key, dial: dials[key] }] : [])).map(
          ({ key, dial }) =>
            ["red", "green", "blue"].map((channel, i) => (
              <Amount
                key={`${key}${channel}`}
                {...scale(dial)}
                label={`${dial.label} ${channel}`}
                value={grade[key][i] ?? dial.normal}
                onHold={(v) => {
                  const triple: [number, number, number] = [...grade[key]];
                  triple[i] = v;
                  hold({ look: { finish: { grade: { [key]: triple } } } }, false);
                }}
                onRelease={() => void release(`${dial.label} of ${channel}`)}
              />
            )),
        )}
    </Section>
  );
}
