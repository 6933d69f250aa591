import { useState } from "react";
import type { Planting } from "../api/types";
import {
  goOnWith,
  patchPlanting,
  reflectIn,
  takePlant,
  type Tool,
  usePlantCounts,
  usePlantings,
  usePlants,
} from "../state/plants";
import { set, useStudio } from "../state/store";
import { useVocabulary } from "../state/vocabulary";
import { Choice } from "../ui/Choice";
import { Row } from "../ui/Row";
import { Section } from "../ui/Section";
import { Tip } from "../ui/Tip";
import { DialLine } from "./DialLine";
import { count as number } from "./words";

const TOOLS: { value: Tool; label: string }[] = [
  { value: "brush", label: "Brush" },
  { value: "row", label: "Row" },
  { value: "one", label: "Single" },
  { value: "erase", label: "Erase" },
];
const DETAILS: { value: Planting["detail"]; label: string }[] = [
  { value: "near", label: "Near" },
  { value: "usual", label: "Usual" },
  { value: "far", label: "Far" },
];
/** What the panes mirror if no plant is in the hand. */
const IN_PANES = "broad tree";

/** Plants around the building: a shelf, what a hand does with them, and what was planted. */
export function Plants() {
  const model = useStudio((s) => s.project?.models[0]);
  const planting = useStudio((s) => s.picking === "plant");
  const { plants } = useVocabulary();
  const hand = usePlants();
  const beds = usePlantings();
  const counts = usePlantCounts();
  const [open, setOpen] = useState("");
  if (!model) return null;
  const count = Object.keys(beds).length;
  const kindOf = (p: Planting) => plants.find((k) => k.id === p.plant);
  const chosen = hand.kind ?? plants.find((k) => k.id === IN_PANES);
  return (
    <Section title="Plants" aside={count > 0 ? `${count}` : "none"}>
      <div className="mb-1 grid grid-cols-5 gap-[3px]" role="group" aria-label="Shelf of plants">
        {plants.map((k) => (
          <Tip key={k.id} text={`${k.label}. ${k.hint}`}>
            <button
              aria-label={k.label}
              aria-pressed={planting && hand.kind?.id === k.id}
              className="overflow-hidden rounded-[2px] border border-rule aria-pressed:border-ink aria-pressed:outline-1 aria-pressed:outline-ink"
              onClick={() =>
                planting && hand.kind?.id === k.id && !hand.planting
                  ? set({ picking: null })
                  : takePlant(k)
              }
            >
              <img
                src={`/plants/${k.id.replaceAll(" ", "-")}.webp`}
                alt=""
                className="block aspect-square w-full object-cover"
              />
            </button>
          </Tip>
        ))}
      </div>
      {planting && (
        <>
          <Choice
            label="How it is planted"
            value={hand.tool}
            options={TOOLS}
            onChoose={(tool) => usePlants.setState({ tool, stroke: null })}
          />
          {(hand.tool === "brush" || hand.tool === "erase") && (
            <DialLine
              of="stroke"
              name="radius_m"
              value={hand.radius_m}
              normal={hand.kind?.brush_m ?? 1}
              onHold={(radius_m) => usePlants.setState({ radius_m })}
              onRelease={(radius_m) => usePlants.setState({ radius_m })}
            />
          )}
        </>
      )}
      {count === 0 && !planting && (
        <p className="text-ink-2">
          Choose a plant, then draw with it in the picture or on the plan.
        </p>
      )}
      <ul aria-label="Plantings">
        {Object.entries(beds).map(([id, p]) => (
          <li key={id} className={open === id ? "border-b border-rule pb-2 last:border-b-0" : ""}>
            <div className="flex justify-between gap-2">
              <button
                className={`min-w-0 flex-1 truncate text-left ${open === id ? "font-[650]" : ""} ${p.on ? "" : "text-ink-3"}`}
                aria-label={p.name}
                aria-expanded={open === id}
                onClick={() => {
                  setOpen(open === id ? "" : id);
                  if (open !== id && planting) goOnWith(id, kindOf(p), hand.tool);
                }}
              >
                {p.name}
                {counts[id] !== undefined && (
                  <span className={counts[id] === 0 ? "text-sun-ink" : "font-normal text-ink-2"}>
                    {" "}
                    · {counts[id] === 0 ? "nothing grows" : number(counts[id])}
                  </span>
                )}
              </button>
              <button
                className="quiet text-small underline"
                aria-label={`${p.on ? "Take away" : "Bring back"} ${p.name}`}
                onClick={() =>
                  void patchPlanting(id, { on: !p.on }, `${p.on ? "Without" : "With"} ${p.name}`)
                }
              >
                {p.on ? "off" : "on"}
              </button>
              <button
                className="quiet text-small underline"
                aria-label={`Remove ${p.name}`}
                onClick={() => {
                  if (hand.planting === id) usePlants.setState({ planting: null });
                  void patchPlanting(id, null, `Remove ${p.name}`);
                }}
              >
                remove
              </button>
            </div>
            {counts[id] === 0 && (
              <p className="text-ink-2">
                Begin on the ground itself, farther from walls, or let it grow nearer to them.
              </p>
            )}
            {open === id && (
              <Details id={id} of={p} onTool={(tool) => goOnWith(id, kindOf(p), tool)} />
            )}
          </li>
        ))}
      </ul>
      {chosen && (
        <Tip text="Behind the camera, where the glass of this view mirrors them">
          <button className="quiet mt-1 underline" onClick={() => void reflectIn(chosen)}>
            {chosen.label} to reflect in these panes
          </button>
        </Tip>
      )}
    </Section>
  );
}

/** Numbers of a planting in the order of its lines. */
const LINES = [
  "per_m2",
  "apart_m",
  "size",
  "size_spread",
  "turn_spread",
  "slope",
  "keep_off_m",
] as const;

/** As many digits as a number between a tree and a meadow needs. */
const density = (v: number) => `${v.toFixed(v < 1 ? 2 : v < 10 ? 1 : 0)} /m²`;

function Details({
  id,
  of: p,
  onTool,
}: {
  id: string;
  of: Planting;
  onTool: (tool: Tool) => void;
}) {
  const dials = useVocabulary().numbers.planting ?? {};
  return (
    <div className="pl-2">
      <div className="my-1 grid grid-cols-2 gap-1">
        <button className="button" onClick={() => onTool("brush")}>
          Plant more
        </button>
        <button className="button" onClick={() => onTool("erase")}>
          Erase
        </button>
      </div>
      {LINES.map((name) => (
        <DialLine
          key={`${name}${p[name]}`}
          of="planting"
          name={name}
          value={p[name]}
          {...(name === "per_m2" ? { write: density } : {})}
          onHold={() => undefined}
          onRelease={(v) =>
            void patchPlanting(id, { [name]: v }, `${dials[name]?.label ?? ""} of ${p.name}`)
          }
        />
      ))}
      <Row label="Detail" named>
        <Choice
          label={`Detail of ${p.name}`}
          value={p.detail}
          options={DETAILS}
          onChoose={(detail) => void patchPlanting(id, { detail }, `Detail of ${p.name}`)}
        />
      </Row>
      <button
        className="quiet underline"
        onClick={() =>
          void patchPlanting(id, { seed: (p.seed % 9999) + 1 }, `${p.name} arranged anew`)
        }
      >
        Another arrangement
      </button>
    </div>
  );
}
