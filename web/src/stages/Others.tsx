import { useEffect, useRef, useState } from "react";
import { post } from "../api/client";
import type { Project, Still, View } from "../api/types";
import { Amount } from "../parts/Amount";
import { Choice } from "../parts/Choice";
import { Section } from "../parts/Section";
import { degrees, percent } from "../parts/words";
import {
  accept,
  addRow,
  edit,
  editLook,
  hold,
  importModel,
  release,
  reload,
  removeRow,
  say,
  set,
  useLook,
  useStudio,
  useView,
  viewRow,
} from "../state/studio";

/** The building and where it stands. */
export function Site() {
  const project = useStudio((s) => s.project);
  const input = useRef<HTMLInputElement>(null);
  const [up, setUp] = useState<"y" | "z">("y");
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
              {model.settings.triangles.toLocaleString("en").replace(/,/g, " ")} triangles ·{" "}
              {model.settings.materials} materials
              <br />
              {model.settings.size_m.map((v) => v.toFixed(1)).join(" × ")} m with surroundings
            </p>
            {model.settings.remarks.length > 0 && (
              <details className="mb-2 text-ink-2">
                <summary>{model.settings.remarks.length} remarks from the import</summary>
                <ul className="max-h-[120px] overflow-y-auto pt-1">
                  {model.settings.remarks.map((r, i) => (
                    <li key={i}>{r}</li>
                  ))}
                </ul>
              </details>
            )}
          </>
        )}
        <div className="mb-2 grid grid-cols-[78px_1fr] items-center gap-2">
          <span className="text-ink-2">Up in file</span>
          <Choice
            label="Up axis of the file"
            value={up}
            options={[
              { value: "y", label: "y" },
              { value: "z", label: "z" },
            ]}
            onChoose={setUp}
          />
        </div>
        <button className="button" onClick={() => input.current?.click()}>
          {model ? "Replace the building …" : "Choose a file …"}
        </button>
        <input
          ref={input}
          type="file"
          accept=".glb,.zip,.gltf,.obj"
          className="sr-only"
          aria-label="File to import"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file) void importModel(file, up);
            e.target.value = "";
          }}
        />
        <p className="mt-2 text-ink-2">GLB, or a zip with a glTF or OBJ and its files. Metres.</p>
      </Section>
      <Section title="Place">
        {field("latitude_deg", "Latitude", -90, 90)}
        {field("longitude_deg", "Longitude", -180, 180)}
        {field("north_deg", "North", -180, 180)}
        <label className="grid grid-cols-[78px_1fr] items-center gap-2 py-[3px]">
          <span className="text-ink-2">Time zone</span>
          <input
            key={project.time_zone}
            className="entry"
            defaultValue={project.time_zone}
            onBlur={(e) =>
              e.target.value !== project.time_zone &&
              void edit("project", project.id, { time_zone: e.target.value.trim() }, "Time zone")
            }
          />
        </label>
        <p className="pt-1 text-ink-2">
          North: how far the model’s y axis lies clockwise of north.
        </p>
      </Section>
    </>
  );
}

/** Cameras of the project and the lens of the current one. */
export function Views() {
  const project = useStudio((s) => s.project);
  const row = useStudio(viewRow);
  const view = useView();
  if (!project || !row || !view) return null;
  const coordinate = (key: "position" | "target", i: number, label: string) => (
    <Amount
      key={`${key}${i}`}
      label={label}
      value={view[key][i] ?? 0}
      min={(row.settings[key][i] ?? 0) - 8}
      max={(row.settings[key][i] ?? 0) + 8}
      step={0.05}
      normal={row.settings[key][i] ?? 0}
      write={(v) => `${v.toFixed(2).replace("-", "−")} m`}
      onHold={(v) => {
        const point: [number, number, number] = [...view[key]];
        point[i] = v;
        hold({ view: { [key]: point } as Partial<View> }, false);
      }}
      onRelease={() => void release(`Move ${row.name}`)}
    />
  );
  return (
    <>
      <Section
        title="Views"
        aside={
          <button
            className="quiet underline"
            onClick={() =>
              void addRow("view", `${row.name} 2`, row.settings).then(
                (id) => id && set({ viewId: id }),
              )
            }
          >
            Copy
          </button>
        }
      >
        {project.views.map((v) => (
          <div key={v.id} className="flex items-center justify-between gap-2 py-[2px]">
            <button
              className={`border-l-2 pl-2 ${v.id === row.id ? "border-blue font-[650]" : "border-transparent text-ink-2"}`}
              aria-pressed={v.id === row.id}
              onClick={() => set({ viewId: v.id, held: null })}
            >
              {v.name}
            </button>
            {project.views.length > 1 && v.id === row.id && (
              <button className="quiet underline" onClick={() => void removeRow("view", v.id)}>
                Remove
              </button>
            )}
          </div>
        ))}
        <label className="mt-1 grid grid-cols-[78px_1fr] items-center gap-2 py-[3px]">
          <span className="text-ink-2">Name</span>
          <input
            key={row.id}
            className="entry"
            defaultValue={row.name}
            onBlur={(e) =>
              e.target.value.trim() &&
              e.target.value !== row.name &&
              void edit("view", row.id, { name: e.target.value.trim() }, "Rename")
            }
          />
        </label>
      </Section>
      <Section title="Lens" aside="36 mm film">
        <Amount
          label="Focal length"
          value={view.focal_length_mm}
          min={10}
          max={200}
          step={1}
          normal={28}
          logarithmic
          write={(v) => `${v.toFixed(0)} mm`}
          onHold={(focal_length_mm) => hold({ view: { focal_length_mm } }, false)}
          onRelease={() => void release("Lens")}
        />
        <label className="flex items-center gap-2 py-[3px]">
          <input
            type="checkbox"
            className="accent-[var(--chosen)]"
            checked={view.upright}
            onChange={(e) =>
              void edit("view", row.id, { settings: { upright: e.target.checked } }, "Verticals")
            }
          />
          Verticals stay vertical (lens shift)
        </label>
        <Choice
          label="Aspect"
          value={String(Math.round(view.aspect * 1000))}
          options={[
            { value: "1778", label: "16 : 9" },
            { value: "1500", label: "3 : 2" },
            { value: "1000", label: "1 : 1" },
            { value: "800", label: "4 : 5" },
          ]}
          onChoose={(v) =>
            void edit(
              "view",
              row.id,
              { settings: { aspect: v === "1778" ? 16 / 9 : Number(v) / 1000 } },
              "Aspect",
            )
          }
        />
      </Section>
      <Section title="Camera">
        {["East", "North", "Eye height"].map((l, i) => coordinate("position", i, l))}
      </Section>
      <Section title="Target">
        {["East", "North", "Height"].map((l, i) => coordinate("target", i, l))}
      </Section>
    </>
  );
}

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

/** Final stills: order, follow, download. */
export function Handover() {
  const project = useStudio((s) => s.project);
  const lookId = useStudio((s) => s.lookId);
  const viewId = useStudio((s) => s.viewId);
  const [width, setWidth] = useState(1920);
  const [noise, setNoise] = useState(2);
  const [minutes, setMinutes] = useState(10);
  const active = project?.stills.some((s) => s.status === "waiting" || s.status === "rendering");
  useEffect(() => {
    if (!active) return;
    const timer = setInterval(() => void reload().catch(() => undefined), 700);
    return () => clearInterval(timer);
  }, [active]);
  if (!project) return null;
  const order = async () => {
    try {
      const answer = await post<{ project: Project }>(`/projects/${project.id}/stills`, {
        look: lookId,
        view: viewId,
        width_px: Math.round(width),
        noise: noise / 100,
        seconds: minutes * 60,
        samples: 4096,
      });
      accept(answer.project);
    } catch (error) {
      say(error);
    }
  };
  return (
    <>
      <Section title="Save a still" aside="this view, this look">
        <Amount
          label="Width"
          value={width}
          min={320}
          max={8192}
          step={16}
          normal={1920}
          logarithmic
          write={(v) => `${v.toFixed(0)} px`}
          onHold={(v) => setWidth(Math.round(v / 16) * 16)}
          onRelease={(v) => setWidth(Math.round(v / 16) * 16)}
        />
        <Amount
          label="Noise"
          value={noise}
          min={0.2}
          max={50}
          step={0.1}
          normal={2}
          logarithmic
          write={(v) => `${v.toFixed(1)} %`}
          onHold={setNoise}
          onRelease={setNoise}
        />
        <Amount
          label="At most"
          value={minutes}
          min={0.1}
          max={240}
          step={1}
          normal={10}
          logarithmic
          write={(v) => `${v < 2 ? v.toFixed(1) : v.toFixed(0)} min`}
          onHold={setMinutes}
          onRelease={setMinutes}
        />
        <p className="my-2 text-ink-2">
          PNG as shown, and a scene-linear EXR with one layer per source. Stops at the noise or the
          time, whichever comes first.
        </p>
        <button className="button" onClick={() => void order()}>
          Save still
        </button>
      </Section>
      <Section title="Stills" aside={`${project.stills.length}`}>
        {project.stills.length === 0 && (
          <p className="text-ink-2">Finished stills are kept here.</p>
        )}
        <ul>
          {project.stills.map((s) => (
            <StillRow key={s.id} still={s} project={project.id} />
          ))}
        </ul>
      </Section>
    </>
  );
}

function StillRow({ still, project }: { still: Still; project: string }) {
  const p = still.progress;
  const png = still.files.find((f) => f.kind === "png");
  const cancel = async () => {
    try {
      accept(await post<Project>(`/projects/${project}/stills/${still.id}/cancel`));
    } catch (error) {
      say(error);
    }
  };
  return (
    <li
      className="border-t border-rule py-2 first:border-t-0"
      data-testid="still"
      data-status={still.status}
    >
      <div className="flex gap-2">
        {png && (
          <img
            src={`/api/files/${png.asset}?show=true`}
            alt={still.name}
            className="h-[45px] w-[80px] object-cover"
          />
        )}
        <div className="min-w-0 flex-1">
          <div className="truncate font-[600]">{still.name}</div>
          <div className="text-ink-2">
            {still.width_px} px
            {still.status === "waiting" && " · waiting"}
            {still.status === "cancelled" && " · cancelled"}
            {still.status === "rendering" &&
              (p?.passes
                ? ` · pass ${p.passes}${p.noise && p.noise < 1 ? ` · noise ${percent(p.noise)}` : ""}`
                : ` · ${p?.text ?? "starting"}`)}
          </div>
          {still.problem && <div className="text-sun">{still.problem}</div>}
          <div className="flex gap-3">
            {still.files.map((f) => (
              <a
                key={f.kind}
                className="underline"
                href={`/api/files/${f.asset}`}
                download={f.name}
              >
                {f.kind.toUpperCase()} {(f.bytes / 1e6).toFixed(1)} MB
              </a>
            ))}
          </div>
        </div>
        {(still.status === "waiting" || still.status === "rendering") && (
          <button className="quiet self-start underline" onClick={() => void cancel()}>
            Cancel
          </button>
        )}
      </div>
      {still.status === "rendering" && (
        <div
          className="mt-1 h-[3px] bg-rule"
          role="progressbar"
          aria-valuenow={Math.round((p?.share ?? 0) * 100)}
        >
          <i className="block h-full bg-ink" style={{ width: `${(p?.share ?? 0) * 100}%` }} />
        </div>
      )}
      {still.status === "rendering" && p?.left != null && (
        <div className="pt-[2px] text-[11.5px] text-ink-2">
          about {p.left > 90 ? `${Math.round(p.left / 60)} min` : `${Math.round(p.left)} s`} left
        </div>
      )}
    </li>
  );
}
