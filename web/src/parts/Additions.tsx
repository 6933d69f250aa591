import { ColourField } from "../ui/ColourField";
import { Row } from "../ui/Row";
import { useState } from "react";
import type { Addition } from "../api/types";
import { editModel } from "../state/edits";
import { holdAddition, release, useAdditions } from "../state/held";
import { set, useStudio } from "../state/store";
import { Amount } from "../ui/Amount";
import { DialLine } from "./DialLine";
import { PictureShelf } from "./PictureShelf";
import { Section } from "../ui/Section";
import { degrees, metres } from "./words";
import { Cheat, Tip } from "../ui/Tip";

const KINDS: { kind: Addition["kind"]; label: string; hint: string }[] = [
  { kind: "block", label: "Block", hint: "A neighbour's house, a wall" },
  { kind: "tree", label: "Tree", hint: "In leaf: it dapples the light" },
  { kind: "blind", label: "Blind", hint: "Level slats before a window" },
  { kind: "ground", label: "Ground", hint: "A level surface that bounces its colour" },
  { kind: "blocker", label: "Blocker", hint: "Stops or tints light, is not seen" },
  { kind: "light card", label: "Light card", hint: "Shines, plain or with a picture: a screen" },
];

const CARDS = [
  { label: "Black", colour: "#060606", hint: "Takes light away: stronger contrast" },
  { label: "White", colour: "#e8e8e8", hint: "Throws light back: a reflector" },
];

/** What the artist adds around the building. */
export function Additions() {
  const model = useStudio((s) => s.project?.models[0]);
  const picking = useStudio((s) => s.picking);
  const [open, setOpen] = useState("");
  const shown = useAdditions();
  if (!model) return null;
  const { additions } = model.settings.edits;
  const change = (id: string, patch: Partial<Addition>, label: string) =>
    editModel({ additions: additions.map((a) => (a.id === id ? { ...a, ...patch } : a)) }, label);
  return (
    <Section title="Additions" aside={additions.length > 0 ? `${additions.length}` : "none"}>
      <div className="mb-1 grid grid-cols-3 gap-1">
        {KINDS.map((k) => (
          <Tip key={k.kind} text={k.hint}>
            <button
              className="button"
              aria-pressed={picking === `add ${k.kind}`}
              onClick={() => set({ picking: `add ${k.kind}`, placing: null })}
            >
              {k.label}
            </button>
          </Tip>
        ))}
      </div>
      {additions.length === 0 && (
        <p className="text-ink-2">
          Choose one, then click in the picture where it should stand: a tree before the window, a
          black card behind the camera.
        </p>
      )}
      <ul aria-label="Additions">
        {additions.map((a) => (
          <li
            key={a.id}
            className={open === a.id ? "border-b border-rule pb-2 last:border-b-0" : ""}
          >
            <div className="flex justify-between gap-2">
              <button
                className={`flex min-w-0 flex-1 items-baseline gap-2 truncate text-left ${open === a.id ? "font-[650]" : ""} ${a.on ? "" : "text-ink-3"}`}
                aria-expanded={open === a.id}
                onClick={() => setOpen(open === a.id ? "" : a.id)}
              >
                {a.name}
                {a.kind === "blocker" && <Cheat why="A cheat: it is not seen" />}
              </button>
              <button
                className="quiet text-small underline"
                aria-label={`${a.on ? "Take away" : "Bring back"} ${a.name}`}
                onClick={() =>
                  void change(a.id, { on: !a.on }, `${a.on ? "Without" : "With"} ${a.name}`)
                }
              >
                {a.on ? "off" : "on"}
              </button>
              <button
                className="quiet text-small underline"
                aria-label={`Remove ${a.name}`}
                onClick={() =>
                  void editModel(
                    { additions: additions.filter((o) => o.id !== a.id) },
                    `Remove ${a.name}`,
                  )
                }
              >
                remove
              </button>
            </div>
            {open === a.id && (
              <Details
                of={shown.find((o) => o.id === a.id) ?? a}
                onChange={(p, l) => void change(a.id, p, l)}
              />
            )}
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** Whether a change says where something stands: that follows the hand, another shape is another mesh. */
const stands = (patch: Partial<Addition>) => "position" in patch || "turn_deg" in patch;

function Details({
  of: a,
  onChange,
}: {
  of: Addition;
  onChange: (patch: Partial<Addition>, label: string) => void;
}) {
  const [held, setHeld] = useState<Record<string, number>>({});
  const number = (label: string, value: number, patch: (v: number) => Partial<Addition>) => ({
    label,
    value: held[label] ?? value,
    normal: value,
    onHold: (v: number) => {
      setHeld({ [label]: v });
      if (stands(patch(v))) holdAddition(a.id, patch(v));
    },
    onRelease: (v: number) => {
      setHeld({});
      const what = `${label} of ${a.name}`;
      if (!stands(patch(v))) return onChange(patch(v), what);
      holdAddition(a.id, patch(v));
      void release(what);
    },
  });
  const line = (
    name: "size_m" | "turn_deg" | "tilt_deg" | "emission_cd_m2",
    label: string,
    value: number,
    patch: (v: number) => Partial<Addition>,
  ) => (
    <DialLine
      key={label}
      of="addition"
      name={name}
      {...number(label, value, patch)}
      {...(name.endsWith("_deg") && { write: degrees })}
    />
  );
  /** Its slider spans what is near. */
  const place = (label: string, i: 0 | 1 | 2, reach: number) => {
    const at = a.position[i];
    const to = (v: number) => {
      const position: Addition["position"] = [...a.position];
      position[i] = v;
      return { position };
    };
    return (
      <Amount
        {...number(label, at, to)}
        min={at - reach}
        max={at + reach}
        step={0.05}
        anywhere
        write={metres}
      />
    );
  };
  const size = (i: 0 | 1 | 2) => (v: number) => {
    const size_m: Addition["size_m"] = [...a.size_m];
    size_m[i] = v;
    return { size_m };
  };
  return (
    <div className="pl-2">
      {place("East", 0, 20)}
      {place("North", 1, 20)}
      {place("Height", 2, 10)}
      {line("size_m", "Width", a.size_m[0], size(0))}
      {a.kind !== "tree" &&
        a.kind !== "light card" &&
        line("size_m", a.kind === "blind" ? "Slat" : "Depth", a.size_m[1], size(1))}
      {a.kind !== "ground" && line("size_m", "Tall", a.size_m[2], size(2))}
      {line("turn_deg", "Turned", a.turn_deg, (turn_deg) => ({ turn_deg }))}
      {a.kind === "blind" && line("tilt_deg", "Tilt", a.tilt_deg, (tilt_deg) => ({ tilt_deg }))}
      {a.kind === "light card" && (
        <>
          {line("emission_cd_m2", "Own light", a.emission_cd_m2, (emission_cd_m2) => ({
            emission_cd_m2,
          }))}
          <PictureShelf
            label="Shining picture"
            none="Plain light"
            asset={a.picture}
            onChoose={(picture, picture_name) =>
              onChange({ picture, picture_name }, `Picture of ${a.name}`)
            }
          />
        </>
      )}
      <Row label="Colour" named>
        <span className="flex items-center gap-1">
          <ColourField
            aria-label={`Colour of ${a.name}`}
            value={a.colour}
            onRelease={(colour) => onChange({ colour }, `Colour of ${a.name}`)}
          />
          {a.kind === "blocker" &&
            CARDS.map((c) => (
              <Tip key={c.label} text={c.hint}>
                <button
                  className="button"
                  onClick={() => onChange({ colour: c.colour }, `${a.name}: ${c.label}`)}
                >
                  {c.label}
                </button>
              </Tip>
            ))}
        </span>
      </Row>
    </div>
  );
}
