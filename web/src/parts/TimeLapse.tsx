import { useState } from "react";
import { answer, api } from "../api/client";
import type { components } from "../api/schema";
import { inTurn } from "../state/edits";
import { Amount } from "../ui/Amount";
import { DialLine } from "./DialLine";
import { Choice } from "../ui/Choice";
import { Section } from "../ui/Section";
import { clock } from "./words";

type Order = components["schemas"]["NewStill"];
type Over = components["schemas"]["Series"]["over"];

const EV = (v: number) => `${v > 0 ? "+" : v < 0 ? "−" : ""}${Math.abs(v).toFixed(1)} EV`;

/** What is varied: its ends, how they are read, and how far they go. */
const OVER = {
  hours: { label: "Hours of the day", ends: [480, 1200], span: [0, 1440], step: 5, write: clock },
  dimming: { label: "Dimming of all lamps", ends: [0, -6], span: [-8, 8], step: 0.1, write: EV },
} as const;

/** A series of stills of the view and look one is in, with the size, limits and files of a still. */
export function TimeLapse({ project, still }: { project: string; still: () => Order }) {
  const [over, setOver] = useState<Over>("hours");
  const [count, setCount] = useState(12);
  const [ends, setEnds] = useState<Record<Over, readonly [number, number]>>({
    hours: OVER.hours.ends,
    dimming: OVER.dimming.ends,
  });
  const of = OVER[over];
  const [first, last] = ends[over];
  const order = () =>
    inTurn(
      () =>
        answer(
          api.POST("/api/projects/{project}/series", {
            params: { path: { project } },
            body: { ...still(), series: { over, first, last, count } },
          }),
        ),
      (made) => made.project,
    );
  const end = (label: string, n: 0 | 1) => (
    <Amount
      label={label}
      value={ends[over][n]}
      min={of.span[0]}
      max={of.span[1]}
      normal={of.ends[n]}
      step={of.step}
      write={of.write}
      onHold={(v) => setEnds({ ...ends, [over]: n ? [first, v] : [v, last] })}
      onRelease={(v) => setEnds({ ...ends, [over]: n ? [first, v] : [v, last] })}
    />
  );
  return (
    <Section title="Time-lapse" aside="sized and filed as above">
      <Choice
        label="What a series goes over"
        value={over}
        options={(Object.keys(OVER) as Over[]).map((o) => ({ value: o, label: OVER[o].label }))}
        onChoose={setOver}
      />
      <div className="mt-1">
        {end("From", 0)}
        {end("To", 1)}
        <DialLine
          of="series"
          name="count"
          value={count}
          onHold={(v) => setCount(Math.round(v))}
          onRelease={(v) => setCount(Math.round(v))}
        />
      </div>
      <button className="button mt-1 w-full" onClick={() => void order()}>
        Save a series of {count}
      </button>
    </Section>
  );
}
