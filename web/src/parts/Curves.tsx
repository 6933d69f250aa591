import { useState } from "react";
import { askCurve } from "../state/asking";
import { editLook } from "../state/edits";
import { hold, release } from "../state/held";
import { useStudio } from "../state/store";
import { Amount } from "../ui/Amount";
import { Choice } from "../ui/Choice";
import { Curve } from "./Curve";
import { FinishLine, type FinishState } from "./FinishLine";
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

const DECISIONS = [
  { key: "slope", label: "Slope", min: 0.5, max: 1.5, normal: 1 },
  { key: "offset", label: "Offset", min: -0.2, max: 0.2, normal: 0 },
  { key: "power", label: "Power", min: 0.5, max: 2, normal: 1 },
] as const;

/** The open colour decision list (CDL): slope, offset and power of red, green and blue, in ACEScct. */
export function DecisionList({ grade }: { grade: FinishState["grade"] }) {
  const [open, setOpen] = useState(false);
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
        DECISIONS.map(({ key, label, min, max, normal }) =>
          ["red", "green", "blue"].map((channel, i) => (
            <Amount
              key={`${key}${channel}`}
              label={`${label} ${channel}`}
              value={grade[key][i] ?? normal}
              min={min}
              max={max}
              step={0.005}
              normal={normal}
              write={(v) => v.toFixed(3).replace("-", "−")}
              onHold={(v) => {
                const triple: [number, number, number] = [...grade[key]];
                triple[i] = v;
                hold({ look: { finish: { grade: { [key]: triple } } } }, false);
              }}
              onRelease={() => void release(`${label} of ${channel}`)}
            />
          )),
        )}
    </Section>
  );
}
