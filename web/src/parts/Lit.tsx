import { Fold } from "../ui/Fold";
import { ColourField } from "../ui/ColourField";
import { Row } from "../ui/Row";
import { type ReactNode, useState } from "react";
import type { Schemas } from "../api/types";
import { Amount } from "../ui/Amount";
import { PictureShelf } from "./PictureShelf";
import { useVocabulary } from "../state/vocabulary";
import { Select } from "../ui/Select";
import { Tick } from "../ui/Tick";

export type Patch = Record<string, number | boolean | string | null>;

const percent = (v: number) => `${(v * 100).toFixed(0)} %`;

/** A material as it is, changed back to what the file has. */
export const AS_IN_THE_FILE: Patch = {
  reflectance: null,
  colour: null,
  roughness: null,
  metallic: null,
  glass: null,
  clear_path: null,
  solid: null,
  frost: null,
  coat: null,
  coat_roughness: null,
  translucency: null,
  through: null,
  openness: null,
  emission_cd_m2: null,
  picture: null,
  picture_name: "",
};

export function Ticked(p: { label: string; value: boolean; onChange: (v: boolean) => void }) {
  return (
    <label className="flex items-center gap-2 py-[2px]">
      <Tick checked={p.value} onChange={(on) => p.onChange(on)} />
      {p.label}
    </label>
  );
}

/** What of a material decides light. */
export function Lit(p: {
  row: Schemas["Lit"];
  name: string;
  onChange: (patch: Patch, label: string) => void;
}) {
  const { row } = p;
  const [held, setHeld] = useState<Record<string, number>>({});
  const line = (
    key:
      | "reflectance"
      | "roughness"
      | "metallic"
      | "coat"
      | "coat_roughness"
      | "frost"
      | "translucency"
      | "openness"
      | "emission_cd_m2",
    label: string,
    max: number,
    write: (v: number) => string,
  ) => (
    <Amount
      label={label}
      value={held[key] ?? row[key]}
      min={0}
      max={max}
      step={max > 1 ? 10 : 0.01}
      normal={row[key]}
      write={write}
      read={(t) => Number.parseFloat(t) / (max > 1 ? 1 : 100)}
      onHold={(v) => setHeld({ ...held, [key]: v })}
      onRelease={(v) => {
        setHeld({});
        p.onChange({ [key]: v }, `${label} of ${p.name}`);
      }}
    />
  );
  return (
    <>
      {line("reflectance", row.glass ? "Tint" : "Reflectance", 1, percent)}
      <Row label="Colour" named>
        <ColourField
          aria-label={`Colour of ${p.name}`}
          value={row.colour}
          onRelease={(colour) => p.onChange({ colour }, `Colour of ${p.name}`)}
        />
      </Row>
      {!row.glass && line("roughness", "Roughness", 1, percent)}
      {!row.glass && line("metallic", "Metal", 1, percent)}
      {!row.glass && line("coat", "Clear coat", 1, percent)}
      {!row.glass && row.coat > 0 && line("coat_roughness", "Coat roughness", 1, percent)}
      {!row.glass && <Sheet {...p} line={line} />}
      {line("emission_cd_m2", "Own light", 20_000, (v) => `${v.toFixed(0)} cd/m²`)}
      {row.emission_cd_m2 > 0 && (
        <Fold
          className="py-[2px]"
          title={<>{row.picture_name ? `Shows “${row.picture_name}”` : "A picture in its light"}</>}
        >
          <PictureShelf
            label="Shining picture"
            none="Plain light"
            asset={row.picture}
            onChoose={(picture, picture_name) =>
              p.onChange({ picture, picture_name }, `Picture in the light of ${p.name}`)
            }
          />
        </Fold>
      )}
      <Ticked
        label="Glass"
        value={row.glass}
        onChange={(glass) => p.onChange({ glass }, `Glass: ${p.name}`)}
      />
      {row.glass && (
        <>
          <Ticked
            label="Light passes straight (clear path)"
            value={row.clear_path}
            onChange={(clear_path) => p.onChange({ clear_path }, `Clear path: ${p.name}`)}
          />
          <Ticked
            label="Solid: two faces, bends light"
            value={row.solid}
            onChange={(solid) => p.onChange({ solid }, `Solid glass: ${p.name}`)}
          />
          {row.solid && !row.clear_path && line("frost", "Frost", 1, percent)}
        </>
      )}
    </>
  );
}

/** How much light comes through cloth, paper or a leaf: by a usual kind, or number by number. */
function Sheet(p: {
  row: Schemas["Lit"];
  name: string;
  onChange: (patch: Patch, label: string) => void;
  line: (
    key: "translucency" | "openness",
    label: string,
    max: number,
    write: (v: number) => string,
  ) => ReactNode;
}) {
  const { row } = p;
  const { cloths } = useVocabulary();
  const lets = row.translucency > 0 || row.openness > 0;
  return (
    <>
      <Row label="Cloth, paper" named>
        <Select
          label={`Cloth or paper of ${p.name}`}
          value={row.cloth ?? (lets ? "own" : "")}
          options={[
            { value: "", label: "Lets no light through" },
            ...cloths.map((c) => ({ value: c.id, label: c.label })),
            ...(lets && !row.cloth ? [{ value: "own", label: "As set below" }] : []),
          ]}
          onPick={(id) => {
            const to = cloths.find((c) => c.id === id);
            if (to)
              p.onChange(
                { translucency: to.translucency, openness: to.openness },
                `${to.label}: ${p.name}`,
              );
            else if (id === "")
              p.onChange({ translucency: 0, openness: 0 }, `No light through: ${p.name}`);
          }}
        />
      </Row>
      {p.line("translucency", "Translucency", 1, percent)}
      {lets && p.line("openness", "Open weave", 1, percent)}
      {row.translucency > 0 && (
        <Row label="Light through" named>
          <ColourField
            aria-label={`Colour of the light through ${p.name}`}
            value={row.through}
            onRelease={(through) =>
              p.onChange({ through }, `Colour of the light through ${p.name}`)
            }
          />
        </Row>
      )}
      {lets && (
        <p className="text-ink-2">
          {percent(row.openness)} passes between the threads; of white light about{" "}
          {percent(row.sent_back)} is sent back.
        </p>
      )}
    </>
  );
}
