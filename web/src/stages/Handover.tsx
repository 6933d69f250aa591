import { Row } from "../ui/Row";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { components } from "../api/schema";
import { DialLine } from "../parts/DialLine";
import { Choice } from "../ui/Choice";
import { ContactSheet } from "../parts/ContactSheet";
import { LightsExchange } from "../parts/LightsExchange";
import { Documents } from "../parts/Documents";
import { PrintSize } from "../parts/PrintSize";
import { Section } from "../ui/Section";
import { KINDS, Stills } from "../parts/Stills";
import { Storage } from "../parts/Storage";
import { TimeLapse } from "../parts/TimeLapse";
import { TimeNeeded } from "../parts/TimeNeeded";
import { useStudio } from "../state/store";
import { Tick } from "../ui/Tick";
import { Select } from "../ui/Select";
import { Tip } from "../ui/Tip";
import { inTurn } from "../state/edits";
import { useVocabulary } from "../state/vocabulary";

type Order = components["schemas"]["NewStill"];

type Pass = Order["passes"][number];

const USUAL_NAMES = "{project}-{view}-{look}-{date}-v{version}";

/** Final stills: order, follow, download. */
export function Handover() {
  const project = useStudio((s) => s.project);
  const lookId = useStudio((s) => s.lookId);
  const viewId = useStudio((s) => s.viewId);
  const [width, setWidth] = useState(1920);
  const [noise, setNoise] = useState(0.04);
  const [bySight, setBySight] = useState(true);
  const [seconds, setSeconds] = useState(600);
  const [allViews, setAllViews] = useState(false);
  const [allLooks, setAllLooks] = useState(false);
  const [files, setFiles] = useState<Order["files"]>(["exr", "png"]);
  const [passes, setPasses] = useState<Order["passes"]>([]);
  const offered = useVocabulary().passes;
  const named = Object.fromEntries(offered.map((p) => [p.id, p.label])) as Record<Pass, string>;
  const [sources, setSources] = useState(true);
  const [half, setHalf] = useState(true);
  const [keep, setKeep] = useState(true);
  const [dpi, setDpi] = useState<number | null>(null);
  const [bounced, setBounced] = useState<Order["bounced"]>("traced");
  const [speckles, setSpeckles] = useState<Order["speckles"]>("left");
  const [compression, setCompression] = useState<Order["compression"]>("zip");
  const [names, setNames] = useState(USUAL_NAMES);
  const [screen, setScreen] = useState<Order["screen"]>("sRGB");
  if (!project) return null;
  const views = allViews ? project.views.map((v) => v.id) : [viewId];
  const looks = allLooks ? project.looks.map((l) => l.id) : [lookId];
  const count = views.length * looks.length;
  const still = (look: string, view: string): Order => ({
    look,
    view,
    width_px: Math.round(width),
    noise: bySight ? null : noise,
    seconds,
    samples: 4096,
    files,
    passes,
    sources,
    half,
    keep,
    dpi,
    screen,
    bounced,
    speckles,
    compression,
    names: names.trim() || USUAL_NAMES,
  });
  const order = async () => {
    for (const look of looks)
      for (const view of views) {
        const ordered = await inTurn(
          () =>
            answer(
              api.POST("/api/projects/{project}/stills", {
                params: { path: { project: project.id } },
                body: still(look, view),
              }),
            ),
          (made) => made.project,
        );
        // What is refused for one is refused for all.
        if (!ordered) return;
      }
  };
  return (
    <>
      <Section title="Save stills">
        <Choice
          label="Views"
          value={allViews ? "all" : "one"}
          options={[
            { value: "one", label: "This view" },
            { value: "all", label: `All ${project.views.length} views` },
          ]}
          onChoose={(v) => setAllViews(v === "all")}
        />
        <div className="mt-1 mb-2">
          <Choice
            label="Looks"
            value={allLooks ? "all" : "one"}
            options={[
              { value: "one", label: "This look" },
              { value: "all", label: `All ${project.looks.length} looks` },
            ]}
            onChoose={(v) => setAllLooks(v === "all")}
          />
        </div>
        <DialLine
          of="order"
          name="width_px"
          value={width}
          onHold={(v) => setWidth(Math.round(v / 16) * 16)}
          onRelease={(v) => setWidth(Math.round(v / 16) * 16)}
        />
        <PrintSize
          width={width}
          dpi={dpi}
          most={8192}
          onChange={(w, d) => {
            setWidth(w);
            setDpi(d);
          }}
        />
        <div className="my-1">
          <Choice
            label="When a still stops"
            value={bySight ? "seen" : "share"}
            options={[
              { value: "seen", label: "No noise visible" },
              { value: "share", label: "Noise in per cent" },
            ]}
            onChoose={(v) => setBySight(v === "seen")}
          />
        </div>
        {!bySight && (
          <DialLine of="still" name="noise" value={noise} onHold={setNoise} onRelease={setNoise} />
        )}
        <DialLine
          of="order"
          name="seconds"
          value={seconds}
          onHold={setSeconds}
          onRelease={setSeconds}
        />
        <Choice
          label="Bounced light of the stills"
          value={bounced}
          options={[
            { value: "traced", label: "Path traced" },
            { value: "kept", label: "Light cache, quicker" },
          ]}
          onChoose={setBounced}
        />
        <div className="mt-1">
          <Choice
            label="Speckle clamp of the stills"
            value={speckles}
            options={[
              { value: "left", label: "Clamp speckles: off" },
              { value: "cut", label: "On" },
            ]}
            onChoose={setSpeckles}
          />
        </div>
        <TimeNeeded width={width} noise={bySight ? null : noise} most={seconds} count={count} />
      </Section>
      <Section title="Files">
        <Ticks
          options={KINDS}
          chosen={files}
          onChange={(next) => next.length > 0 && setFiles(next)}
        />
        <label className="flex items-center gap-2 py-[2px]">
          <Tick checked={keep} onChange={(on) => setKeep(on)} />
          keep the light, to mix and finish again
        </label>
        <Row label="Names" className="mt-1">
          <Tip text="{project} {view} {look} {date} {version} {width}; {number} in a series">
            <input
              className="entry"
              aria-label="Names of the files"
              value={names}
              onChange={(e) => setNames(e.target.value)}
            />
          </Tip>
        </Row>
        <Pick
          label="Colour space"
          value={screen}
          options={["sRGB", "Display P3", "Rec.709"]}
          onPick={(v) => setScreen(v as Order["screen"])}
        />
      </Section>
      {files.includes("exr") && (
        <Section title="Layers of the EXR" aside="scene-linear, cd/m²">
          <label className="flex items-center gap-2 py-[2px]">
            <Tick checked={sources} onChange={(on) => setSources(on)} />
            one for each source
          </label>
          <Ticks options={named} chosen={passes} onChange={setPasses} />
          <Pick
            label="Bit depth"
            value={half ? "half" : "float"}
            options={["half", "float"]}
            onPick={(v) => setHalf(v === "half")}
          />
          <Pick
            label="Compression"
            value={compression}
            options={["zip", "zips", "piz", "none"]}
            onPick={(v) => setCompression(v as Order["compression"])}
          />
        </Section>
      )}
      <div className="py-3">
        <button className="button" onClick={() => void order()}>
          {count === 1 ? "Save still" : `Save ${count} stills`}
        </button>
      </div>
      <TimeLapse project={project.id} still={() => still(lookId, viewId)} />
      <Stills stills={project.stills} project={project.id} />
      <Documents
        project={project.id}
        look={lookId}
        finished={project.stills.some((s) => s.status === "done")}
      />
      <Section title="Contact sheet">
        <ContactSheet
          kinds={[
            { kind: "all", label: "Views × looks" },
            { kind: "views", label: "All views" },
          ]}
        />
      </Section>
      <LightsExchange project={project.id} />
      <Storage stills={project.stills.length} />
    </>
  );
}

/** Several of a few. */
function Ticks<T extends string>(p: {
  options: Record<T, string>;
  chosen: T[];
  onChange: (chosen: T[]) => void;
}) {
  return (
    <div className="grid grid-cols-2 gap-x-2">
      {(Object.entries(p.options) as [T, string][]).map(([value, label]) => (
        <label key={value} className="flex items-center gap-2 py-[2px]">
          <Tick
            checked={p.chosen.includes(value)}
            onChange={(on) =>
              p.onChange(on ? [...p.chosen, value] : p.chosen.filter((c) => c !== value))
            }
          />
          {label}
        </label>
      ))}
    </div>
  );
}

function Pick(p: { label: string; value: string; options: string[]; onPick: (v: string) => void }) {
  return (
    <Row label={p.label} named className="mt-1">
      <Select
        label={p.label}
        value={p.value}
        options={p.options.map((o) => ({ value: o, label: o }))}
        onPick={p.onPick}
      />
    </Row>
  );
}
