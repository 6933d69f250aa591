import { Fold } from "../ui/Fold";
import { Scroll } from "../ui/Scroll";
import { Row } from "../ui/Row";
import { useState } from "react";
import type { Building } from "../api/types";
import { Additions } from "../parts/Additions";
import { Amount } from "../ui/Amount";
import { Check } from "../parts/Check";
import { MovedParts } from "../parts/MovedParts";
import { Parts } from "../parts/Parts";
import { Plants } from "../parts/Plants";
import { PlaceSearch } from "../parts/PlaceSearch";
import { Section } from "../ui/Section";
import { count, degrees } from "../parts/words";
import { useVocabulary } from "../state/vocabulary";
import { edit, importModel } from "../state/edits";
import { useStudio } from "../state/store";
import { FileButton } from "../ui/FileButton";
import { Select } from "../ui/Select";

type UpAxis = Building["up"];
const UP_AXES: UpAxis[] = ["y", "z", "x", "-x", "-y", "-z"];

const found = (n: number, what: string) => `${n || "no"} ${what}${n === 1 ? "" : "s"}`;

/** The building and where it stands. */
export function Site() {
  const project = useStudio((s) => s.project);
  const { buildings } = useVocabulary();
  const [up, setUp] = useState<UpAxis>("y");
  if (!project) return null;
  const model = project.models[0];
  const field = (
    key: "latitude_deg" | "longitude_deg" | "north_deg",
    label: string,
    low: number,
    high: number,
  ) => (
    <Amount
      key={`${key}${project[key]}`}
      label={label}
      value={project[key]}
      min={low}
      max={high}
      step={0.1}
      normal={project[key]}
      write={degrees}
      onHold={() => undefined}
      onRelease={(v) => void edit("project", project.id, { [key]: v }, label)}
    />
  );
  return (
    <>
      <Section title="Building" aside={model ? `${model.settings.parts} parts` : "none yet"}>
        {model && (
          <>
            <p className="mb-1 truncate">{model.name}</p>
            <p className="mb-2 text-ink-2">
              {count(model.settings.triangles)} triangles · {model.settings.materials} materials
              <br />
              {found(model.settings.cameras, "camera")}, {found(model.settings.lamps, "lamp")} in
              the file
              <br />
              {model.settings.size_m
                .map((v) => (v * model.settings.scale).toFixed(1))
                .join(" × ")}{" "}
              m with surroundings
            </p>
            {model.settings.remarks.length > 0 && (
              <Fold
                className="mb-2"
                title={<>{model.settings.remarks.length} remarks from the import</>}
              >
                <Scroll className="max-h-[120px]">
                  <ul className="pt-1">
                    {model.settings.remarks.map((r, i) => (
                      <li key={i}>{r}</li>
                    ))}
                  </ul>
                </Scroll>
              </Fold>
            )}
          </>
        )}
        <Row label="Up axis" named className="mb-2">
          <Select
            label="Up axis of the file"
            value={model?.settings.up ?? up}
            options={UP_AXES.map((axis) => ({ value: axis, label: axis.replace("-", "−") }))}
            onPick={(picked) => {
              const axis = picked as UpAxis;
              if (model) void edit("model", model.id, { settings: { up: axis } }, "Up axis");
              else setUp(axis);
            }}
          />
        </Row>
        {model && (
          <Row label="Units" named className="mb-2">
            <Select
              label="Units of the file"
              value={String(model.settings.scale)}
              options={Object.entries(project.units).map(([unit, k]) => ({
                value: String(k),
                label: unit,
              }))}
              onPick={(k) =>
                void edit(
                  "model",
                  model.id,
                  { settings: { scale: Number(k) } },
                  "Units of the file",
                )
              }
            />
          </Row>
        )}
        <FileButton
          label="File to import"
          endings={buildings}
          onFiles={([file]) => file && void importModel(file, model?.settings.up ?? up)}
        >
          {model ? "Replace the building …" : "Choose a file …"}
        </FileButton>
        <p className="mt-2 text-ink-2">
          GLB, IFC, FBX, DAE, USD, 3DS, DXF, STL or PLY, or a zip with a model and its pictures.
        </p>
      </Section>
      <Check />
      <Additions />
      <Plants />
      <MovedParts />
      <Parts />
      <Section title="Place">
        <PlaceSearch />
        {field("latitude_deg", "Latitude", -90, 90)}
        {field("longitude_deg", "Longitude", -180, 180)}
        {field("north_deg", "North", -180, 180)}
        <Row label="Time zone">
          <input
            key={project.time_zone}
            className="entry"
            defaultValue={project.time_zone}
            onBlur={(e) =>
              e.target.value !== project.time_zone &&
              void edit("project", project.id, { time_zone: e.target.value.trim() }, "Time zone")
            }
          />
        </Row>
        <p className="pt-1 text-ink-2">
          North: how far the model’s y axis lies clockwise of north.
        </p>
      </Section>
    </>
  );
}
