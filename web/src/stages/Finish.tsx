import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { answer, api, form } from "../api/client";
import type { Look } from "../api/types";
import { Amount } from "../parts/Amount";
import { Choice } from "../parts/Choice";
import { Curve } from "../parts/Curve";
import { Section } from "../parts/Section";
import { askStart } from "../state/picture";
import { editLook, hold, lookRow, release, say, useLook, useStudio } from "../state/studio";

type FinishState = Look["finish"];
type Group = keyof FinishState;

const plus =
  (digits: number, unit = "") =>
  (v: number) =>
    `${v > 0 ? "+" : ""}${v.toFixed(digits).replace("-", "−")}${unit}`;
const share = (v: number) => `${(v * 100).toFixed(0)} %`;
const readShare = (t: string) => Number.parseFloat(t) / 100;

interface LineProps {
  group: Group;
  name: string;
  label: string;
  min: number;
  max: number;
  step: number;
  normal: number;
  write: (v: number) => string;
  read?: (text: string) => number;
  logarithmic?: boolean;
}

/** One number of the finish; double click brings it back to where it changes nothing. */
function Line({ group, name, ...p }: LineProps) {
  const finish = useLook()?.finish;
  if (!finish) return null;
  const value = (finish[group] as Record<string, unknown>)[name] as number;
  return (
    <Amount
      {...p}
      value={value}
      onHold={(v) => hold({ look: { finish: { [group]: { [name]: v } } } }, false)}
      onRelease={() => void release(p.label)}
    />
  );
}

/** Everything after light: tone, grade, lens, occlusion, haze. Never traces a picture. */
export function Finish() {
  const look = useLook();
  if (!look) return null;
  return (
    <>
      <Start />
      <Tone look={look} />
      <Section title="Light">
        <Line
          group="grade"
          name="shadows"
          label="Shadows"
          min={-2}
          max={2}
          step={0.05}
          normal={0}
          write={plus(2, " EV")}
        />
        <Line
          group="grade"
          name="contrast"
          label="Contrast"
          min={0.5}
          max={1.8}
          step={0.01}
          normal={1}
          write={(v) => v.toFixed(2)}
        />
        <Line
          group="grade"
          name="pivot"
          label="Pivot"
          min={-3}
          max={3}
          step={0.1}
          normal={0}
          write={plus(1, " EV")}
        />
        <Line
          group="grade"
          name="compression"
          label="Highlights"
          min={0}
          max={1}
          step={0.01}
          normal={0}
          write={share}
          read={readShare}
        />
        <Line
          group="grade"
          name="compression_start"
          label="… from"
          min={0.2}
          max={5}
          step={0.1}
          normal={2}
          write={(v) => `−${v.toFixed(1)} EV`}
          read={(t) => Math.abs(Number.parseFloat(t.replace("−", "")))}
        />
      </Section>
      <Section title="Colour">
        <Line
          group="grade"
          name="saturation"
          label="Saturation"
          min={0}
          max={2}
          step={0.01}
          normal={1}
          write={share}
          read={readShare}
        />
        <Line
          group="grade"
          name="vibrance"
          label="Pale colours"
          min={-1}
          max={1}
          step={0.01}
          normal={0}
          write={plus(2)}
        />
        <Line
          group="grade"
          name="warm_lights"
          label="Warm lights"
          min={-1}
          max={1}
          step={0.01}
          normal={0}
          write={plus(2)}
        />
        <Line
          group="grade"
          name="warm_shadows"
          label="… shadows"
          min={-1}
          max={1}
          step={0.01}
          normal={0}
          write={plus(2)}
        />
        <Amount
          label="Green–mag."
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
      <FilmTable grade={look.finish.grade} />
      <Section title="Lens">
        <Line
          group="glare"
          name="glow"
          label="Glow"
          min={0}
          max={0.4}
          step={0.005}
          normal={0}
          write={(v) => `${(v * 100).toFixed(1)} %`}
          read={readShare}
        />
        <Line
          group="glare"
          name="spread"
          label="… width"
          min={0.004}
          max={0.1}
          step={0.001}
          normal={0.02}
          write={(v) => `${(v * 100).toFixed(1)} %`}
          read={readShare}
          logarithmic
        />
        <Line
          group="glare"
          name="star"
          label="Star"
          min={0}
          max={0.3}
          step={0.005}
          normal={0}
          write={(v) => `${(v * 100).toFixed(1)} %`}
          read={readShare}
        />
        <Line
          group="glare"
          name="blades"
          label="… blades"
          min={3}
          max={12}
          step={1}
          normal={6}
          write={(v) => v.toFixed(0)}
        />
        <Line
          group="glare"
          name="rotation_deg"
          label="… turned"
          min={0}
          max={180}
          step={1}
          normal={10}
          write={(v) => `${v.toFixed(0)}°`}
        />
        <Line
          group="lens"
          name="vignette"
          label="Vignette"
          min={0}
          max={2}
          step={0.05}
          normal={0}
          write={(v) => `${v.toFixed(2)} EV`}
        />
        <Line
          group="lens"
          name="grain"
          label="Grain"
          min={0}
          max={0.3}
          step={0.005}
          normal={0}
          write={(v) => `${v.toFixed(3)} EV`}
        />
        <Line
          group="lens"
          name="sharpen"
          label="Sharpness"
          min={0}
          max={1}
          step={0.01}
          normal={0}
          write={share}
          read={readShare}
        />
      </Section>
      <Section title="Ambient occlusion" aside="multiplied in">
        <Line
          group="occlusion"
          name="amount"
          label="Amount"
          min={0}
          max={1}
          step={0.01}
          normal={0}
          write={share}
          read={readShare}
        />
        <Line
          group="occlusion"
          name="radius_m"
          label="Radius"
          min={0.05}
          max={5}
          step={0.05}
          normal={0.6}
          write={(v) => `${v.toFixed(2)} m`}
          logarithmic
        />
        <Line
          group="occlusion"
          name="white"
          label="White level"
          min={0.2}
          max={1}
          step={0.01}
          normal={0.9}
          write={share}
          read={readShare}
        />
      </Section>
      <Section title="Depth haze" aside={<i className="cheat" title="A cheat: no air is traced" />}>
        <Line
          group="haze"
          name="per_metre"
          label="Per metre"
          min={0}
          max={0.1}
          step={0.001}
          normal={0}
          write={(v) => `${(v * 100).toFixed(1)} %`}
          read={readShare}
        />
        <Line
          group="haze"
          name="stops"
          label="Brightness"
          min={-4}
          max={4}
          step={0.1}
          normal={1}
          write={plus(1, " EV")}
        />
        <Line
          group="haze"
          name="kelvin"
          label="Colour"
          min={2000}
          max={15000}
          step={100}
          normal={7500}
          write={(v) => `${v.toFixed(0)} K`}
          logarithmic
        />
      </Section>
      <p className="py-2 text-ink-2">
        Hold T to see the light as it was traced. Nothing here renders again.
      </p>
    </>
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
          onClick={() => void editLook({ finish: NOTHING }, "Clear the finish")}
        >
          Clear all
        </button>
      }
    >
      <div className="grid grid-cols-3 gap-1">
        {(["flat", "natural", "strong"] as const).map((mood) => (
          <button
            key={mood}
            className="button capitalize"
            title={`Contrast, shadows and highlights for a ${mood} picture, from its histogram`}
            onClick={async () => {
              const grade = await askStart(mood);
              void editLook({ finish: { grade } }, `Start ${mood}`);
            }}
          >
            {mood}
          </button>
        ))}
      </div>
      {others.length > 0 && (
        <select
          className="entry mt-2 w-full"
          aria-label="Copy the finish of another look"
          value=""
          onChange={(e) => {
            const from = others.find((l) => l.id === e.target.value);
            if (!from) return;
            const { finish, exposure } = from.settings;
            void editLook(
              { finish, exposure: { tone: exposure.tone, tint: exposure.tint } },
              `Finish of ${from.name}`,
            );
          }}
        >
          <option value="">Copy the finish of …</option>
          {others.map((l) => (
            <option key={l.id} value={l.id}>
              {l.name}
            </option>
          ))}
        </select>
      )}
    </Section>
  );
}

const NOTHING: FinishState = {
  grade: {
    compression: 0,
    compression_start: 2,
    shadows: 0,
    contrast: 1,
    pivot: 0,
    saturation: 1,
    vibrance: 0,
    warm_lights: 0,
    warm_shadows: 0,
    slope: [1, 1, 1],
    offset: [0, 0, 0],
    power: [1, 1, 1],
    toe: 0.4,
    shoulder: 0.5,
    mid: 0,
    black: 0,
    white: 1,
    curve: [],
    red: [],
    green: [],
    blue: [],
    table: null,
    table_name: "",
    table_path: null,
    table_opacity: 1,
  },
  glare: { glow: 0, spread: 0.02, star: 0, blades: 6, rotation_deg: 10 },
  occlusion: { amount: 0, white: 0.9, radius_m: 0.6 },
  haze: { per_metre: 0, kelvin: 7500, stops: 1 },
  lens: { vignette: 0, grain: 0, sharpen: 0 },
};

const TONES = {
  natural: "The open ACES output transform: highlights roll off, colours stay believable.",
  film: "A curve of its own: toe for the darks, shoulder for the lights, middle grey where you put it.",
  linear: "No compression: what is brighter than white is cut. For judging exposure.",
};

function Tone({ look }: { look: Look }) {
  const { tone } = look.exposure;
  return (
    <Section title="Tone" aside="of this look">
      <Choice
        label="Tone"
        value={tone}
        options={[
          { value: "natural", label: "Natural" },
          { value: "film", label: "Film" },
          { value: "linear", label: "Linear" },
        ]}
        onChoose={(t) => void editLook({ exposure: { tone: t } }, "Tone")}
      />
      <p className="mt-2 mb-1 text-ink-2">{TONES[tone]}</p>
      {tone === "film" && (
        <>
          <Line
            group="grade"
            name="toe"
            label="Toe"
            min={0}
            max={1}
            step={0.01}
            normal={0.4}
            write={share}
            read={readShare}
          />
          <Line
            group="grade"
            name="shoulder"
            label="Shoulder"
            min={0}
            max={1}
            step={0.01}
            normal={0.5}
            write={share}
            read={readShare}
          />
          <Line
            group="grade"
            name="mid"
            label="Middle"
            min={-2}
            max={2}
            step={0.05}
            normal={0}
            write={plus(2, " EV")}
          />
        </>
      )}
    </Section>
  );
}

const NO_BINS: number[] = [];
const CHANNELS = { curve: "var(--ink)", red: "#b5493c", green: "#4b8a4f", blue: "#4a6fae" };

function Curves({ grade }: { grade: FinishState["grade"] }) {
  const histogram = useStudio((s) => s.frame?.histogram);
  const [channel, setChannel] = useState<keyof typeof CHANNELS>("curve");
  return (
    <Section
      title="Curve"
      aside={
        <button
          className="quiet underline"
          onClick={() => void editLook({ finish: { grade: { [channel]: [] } } }, "Straight curve")}
        >
          Straight
        </button>
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
        <Line
          group="grade"
          name="black"
          label="Black point"
          min={0}
          max={0.3}
          step={0.005}
          normal={0}
          write={share}
          read={readShare}
        />
        <Line
          group="grade"
          name="white"
          label="White point"
          min={0.6}
          max={1}
          step={0.005}
          normal={1}
          write={share}
          read={readShare}
        />
      </div>
    </Section>
  );
}

function FilmTable({ grade }: { grade: FinishState["grade"] }) {
  const client = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const shelf = useQuery({
    queryKey: ["tables"],
    queryFn: () => answer(api.GET("/api/tables")),
    staleTime: Infinity,
  });
  const choose = (table: string | null, table_name: string) =>
    editLook({ finish: { grade: { table, table_name } } }, table ? table_name : "No film table");
  return (
    <Section
      title="Film table"
      aside={
        <button className="quiet underline" onClick={() => chooser.current?.click()}>
          Add a .cube
        </button>
      }
    >
      <input
        ref={chooser}
        type="file"
        accept=".cube"
        hidden
        aria-label="Film table file"
        onChange={async (e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (!file) return;
          try {
            const made = await answer(api.POST("/api/tables", form(file)));
            await client.invalidateQueries({ queryKey: ["tables"] });
            void choose(made.id, made.name);
          } catch (error) {
            say(error);
          }
        }}
      />
      <select
        className="entry w-full"
        aria-label="Film table"
        value={grade.table ?? ""}
        onChange={(e) => {
          const found = shelf.data?.find((t) => t.id === e.target.value);
          void choose(found?.id ?? null, found?.name ?? "");
        }}
      >
        <option value="">None</option>
        {shelf.data?.map((t) => (
          <option key={t.id} value={t.id}>
            {t.name}
          </option>
        ))}
      </select>
      {grade.table && (
        <Line
          group="grade"
          name="table_opacity"
          label="Opacity"
          min={0}
          max={1}
          step={0.01}
          normal={1}
          write={share}
          read={readShare}
        />
      )}
    </Section>
  );
}
