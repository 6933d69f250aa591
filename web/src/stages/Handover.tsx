import { useEffect, useState } from "react";
import { answer, api } from "../api/client";
import type { Still } from "../api/types";
import { Amount } from "../parts/Amount";
import { Section } from "../parts/Section";
import { percent } from "../parts/words";
import { accept, reload, say, useStudio } from "../state/studio";

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
      const asked = api.POST("/api/projects/{project}/stills", {
        params: { path: { project: project.id } },
        body: {
          look: lookId,
          view: viewId,
          width_px: Math.round(width),
          noise: noise / 100,
          seconds: minutes * 60,
          samples: 4096,
        },
      });
      accept((await answer(asked)).project);
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
      const path = { project, still: still.id };
      accept(
        await answer(
          api.POST("/api/projects/{project}/stills/{still}/cancel", { params: { path } }),
        ),
      );
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
