import { Progress } from "../ui/Progress";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { paths } from "../api/schema";
import type { Still } from "../api/types";
import { useStudio } from "../state/store";
import { Refine } from "./Refine";
import { Section } from "../ui/Section";
import { duration, percent, size } from "./words";
import { inTurn } from "../state/edits";
import { Tip } from "../ui/Tip";

type Act =
  paths["/api/projects/{project}/stills/{still}/{act}"]["post"]["parameters"]["path"]["act"];

export const KINDS = {
  exr: "EXR",
  png: "PNG",
  png16: "PNG 16 bit",
  tiff: "TIFF 16 bit",
  jpeg: "JPEG",
} as const;

/** The queue of stills and those that are done, with what they take on disk. */
export function Stills({ stills, project }: { stills: Still[]; project: string }) {
  const shown = stills.filter((s) => s.status !== "removed");
  const removed = stills.filter((s) => s.status === "removed");
  const last = removed[0];
  const bytes = shown.reduce((sum, s) => sum + s.files.reduce((n, f) => n + f.bytes, 0), 0);
  const aside = shown.length === 0 ? "" : `${shown.length} · ${size(bytes)}`;
  return (
    <Section title="Stills" aside={aside}>
      {shown.some((s) => s.status === "done") && (
        <p className="text-ink-2">
          <a className="underline" href={`/api/projects/${project}/stills.zip`} download>
            All files as one zip
          </a>
        </p>
      )}
      {shown.length === 0 && <p className="text-ink-2">Finished stills are kept here.</p>}
      <ul>
        {together(shown).map(([first, ...rest]) =>
          first?.series ? (
            <InSeries key={first.series.id} stills={[first, ...rest]} project={project} />
          ) : (
            first && <Row key={first.id} still={first} project={project} />
          ),
        )}
      </ul>
      {last && (
        <p className="border-t border-rule pt-2 text-ink-2">
          {removed.length === 1 ? `“${last.name}” is` : `${removed.length} stills are`} removed.{" "}
          <button className="underline" onClick={() => void act(project, last.id, "restore")}>
            Put back
          </button>{" "}
          <button className="underline" onClick={() => void act(project, last.id, "sweep")}>
            Free the space
          </button>
        </p>
      )}
    </Section>
  );
}

/** Stills as they follow each other, those of a series together where its newest stands. */
function together(stills: Still[]) {
  const groups = new Map<string, Still[]>();
  for (const s of stills) {
    const key = s.series?.id ?? s.id;
    groups.set(key, [...(groups.get(key) ?? []), s]);
  }
  return [...groups.values()];
}

type SeriesAct =
  paths["/api/projects/{project}/series/{series}/{act}"]["post"]["parameters"]["path"]["act"];

/** A series of stills: how far it is, what it gives, and its single stills. */
function InSeries({ stills, project }: { stills: Still[]; project: string }) {
  const [open, setOpen] = useState(false);
  const of = stills[0]?.series;
  if (!of) return null;
  const inOrder = [...stills].sort((a, b) => (a.series?.number ?? 0) - (b.series?.number ?? 0));
  const having = (...status: Still["status"][]) => stills.filter((s) => status.includes(s.status));
  const done = having("done").length;
  const path = `/api/projects/${project}`;
  const button = (what: SeriesAct, word: string) => (
    <button
      className="quiet underline"
      onClick={() =>
        void inTurn(() =>
          answer(
            api.POST("/api/projects/{project}/series/{series}/{act}", {
              params: { path: { project, series: of.id, act: what } },
            }),
          ),
        )
      }
    >
      {word}
    </button>
  );
  const goesOn = having("waiting", "rendering").length > 0;
  const newest = having("done")
    .map((s) => s.files.find((f) => f.kind === "png" || f.kind === "jpeg"))
    .find((f) => f);
  // To put a film together takes time: once, when there is nothing more to come.
  const film = `${path}/series/${of.id}.webp`;
  const shown = newest && (goesOn ? `/api/files/${newest.asset}?show=true` : film);
  return (
    <li className="border-t border-rule py-2 first:border-t-0" data-testid="series">
      <div className="flex gap-2">
        {shown && (
          <img src={shown} alt={`${of.name}, moving`} className="h-[45px] w-[80px] object-cover" />
        )}
        <div className="min-w-0 flex-1">
          <div className="font-[600]">{of.name}</div>
          <div className="text-ink-2">
            {inOrder[0]?.series?.at} to {inOrder[inOrder.length - 1]?.series?.at} · {done} of{" "}
            {stills.length} pictures
          </div>
          {done > 0 && (
            <div className="flex flex-wrap gap-x-3">
              {newest && (
                <a className="underline" href={film} download>
                  WebP, moving
                </a>
              )}
              <a className="underline" href={`${path}/stills.zip?series=${of.id}`} download>
                Files as zip
              </a>
            </div>
          )}
        </div>
        <div className="flex flex-col items-end">
          {goesOn && button("pause", "Pause")}
          {having("paused", "failed").length > 0 && button("resume", "Resume")}
          {(goesOn || having("paused").length > 0) && button("cancel", "Cancel the rest")}
          {!goesOn && having("paused").length === 0 && button("remove", "Remove")}
        </div>
      </div>
      {goesOn && <Progress label={`Progress of ${of.name}`} share={done / stills.length} />}
      <button className="quiet underline" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Fold the single stills" : "Single stills"}
      </button>
      {open && (
        <ul className="pl-2">
          {inOrder.map((s) => (
            <Row key={s.id} still={s} project={project} />
          ))}
        </ul>
      )}
    </li>
  );
}

function act(project: string, still: string, what: Act) {
  const params = { path: { project, still, act: what } };
  return inTurn(() => answer(api.POST("/api/projects/{project}/stills/{still}/{act}", { params })));
}

function Row({ still, project }: { still: Still; project: string }) {
  const lookId = useStudio((s) => s.lookId);
  const [asked, setAsked] = useState(false);
  const [refining, setRefining] = useState(false);
  const p = still.progress;
  const png = still.files.find((f) => f.kind === "png" || f.kind === "jpeg");
  const light = still.files.find((f) => f.kind === "light");
  const mix = async () => {
    setAsked(true);
    const params = { path: { project, still: still.id, look: lookId } };
    await inTurn(
      () => answer(api.POST("/api/projects/{project}/stills/{still}/mixed/{look}", { params })),
      (made) => made.project,
    );
    setAsked(false);
  };
  const button = (what: Act, word: string) => (
    <button className="quiet underline" onClick={() => void act(project, still.id, what)}>
      {word}
    </button>
  );
  const over = ["done", "failed", "cancelled"].includes(still.status);
  const curve = p?.curve?.length ? p.curve : still.curve;
  return (
    <li
      className="border-t border-rule py-2 first:border-t-0"
      data-testid="still"
      data-status={still.status}
    >
      <div className="flex gap-2">
        {still.status === "rendering" && <Meanwhile still={still} />}
        {png && (
          <img
            src={`/api/files/${png.asset}?show=true`}
            alt={still.described || still.name}
            className="h-[45px] w-[80px] object-cover"
          />
        )}
        <div className="min-w-0 flex-1">
          <div className="font-[600]">{still.name}</div>
          <div className="text-ink-2">
            {still.width_px} px
            {still.status === "waiting" && " · waiting"}
            {still.status === "cancelled" && " · cancelled"}
            {still.status === "paused" && " · paused, what it has is kept"}
            {still.status === "rendering" &&
              (p?.passes
                ? ` · pass ${p.passes}${p.noise && p.noise !== 1 ? ` · noise ${noiseOf(still, p.noise)}` : ""}`
                : ` · ${p?.text ?? "starting"}`)}
            {still.status === "rendering" &&
              p?.workers != null &&
              ` · ${p.workers} ${p.workers === 1 ? "worker" : "workers"}`}
          </div>
          {still.problem && <div className="text-sun-ink">{still.problem}</div>}
          <div className="flex flex-wrap gap-x-3">
            {still.files
              .filter((f) => f.kind !== "light")
              .map((f) => (
                <a
                  key={f.kind}
                  className="underline"
                  href={`/api/files/${f.asset}`}
                  download={f.name}
                >
                  {KINDS[f.kind as keyof typeof KINDS]} {size(f.bytes)}
                </a>
              ))}
          </div>
        </div>
        <div className="flex flex-col items-end">
          {still.status === "waiting" && button("sooner", "First")}
          {still.status === "rendering" && button("pause", "Pause")}
          {(still.status === "paused" || still.status === "failed") && button("resume", "Resume")}
          {["waiting", "rendering", "paused"].includes(still.status) && button("cancel", "Cancel")}
          {over && button("remove", "Remove")}
          {still.status === "done" && still.curve.length > 0 && (
            <a className="quiet underline" href={`/api/stills/${still.id}/recipe.json`} download>
              Recipe
            </a>
          )}
        </div>
      </div>
      {still.sums_differ != null && still.status === "done" && (
        <div className="mt-1 text-ink-2">
          {still.sums_differ < 0.002
            ? `Sources add up to the picture, within ${Math.max(still.sums_differ * 100, 0.001).toFixed(3)} %.`
            : `The sources of the EXR differ from its picture by ${percent(still.sums_differ)}: save it with float numbers.`}
        </div>
      )}
      {still.remark && <div className="mt-1 text-ink-2">{still.remark}</div>}
      {light && (
        <div className="mt-1 flex items-baseline gap-x-3 whitespace-nowrap">
          <Tip text="Levels, colours, exposure and finish of the look you are in, without rendering">
            <button className="button" disabled={asked} onClick={() => void mix()}>
              Mix again
            </button>
          </Tip>
          {png && (
            <Tip text="More passes for a region or a source of it">
              <button
                className="button"
                aria-expanded={refining}
                onClick={() => setRefining(!refining)}
              >
                Refine …
              </button>
            </Tip>
          )}
          <Tip text="Light kept">
            <span className="flex-1 text-right text-ink-2">
              {(light.bytes / 1e6).toFixed(0)} MB
            </span>
          </Tip>
          {button("drop_light", "Let go")}
        </div>
      )}
      {refining && png && (
        <Refine
          still={still}
          project={project}
          shown={`/api/files/${png.asset}?show=true`}
          onDone={() => setRefining(false)}
        />
      )}
      {curve.length > 1 && <Falling still={still} curve={curve} />}
      {still.status === "rendering" && (
        <Progress label={`Progress of ${still.name}`} share={p?.share ?? 0} />
      )}
      {still.status === "rendering" && p?.left != null && (
        <div className="pt-[2px] text-small text-ink-2">about {duration(p.left)} left</div>
      )}
    </li>
  );
}

/** The picture so far, anew whenever its noise was measured. */
function Meanwhile({ still }: { still: Still }) {
  const seen = still.progress?.curve.length ?? 0;
  if (seen === 0) return null;
  return (
    <img
      src={`/api/stills/${still.id}/preview?n=${seen}`}
      alt={`${still.name} so far`}
      className="h-[45px] w-[80px] object-cover"
    />
  );
}

type Point = [number, number];

/** Noise in the measure that a still stops by: steps that are seen, or a share of the light. */
const noiseOf = (still: Still, noise: number) =>
  still.seen ? `${noise.toFixed(1)} ×` : percent(noise);

/** Noise over time as it fell, both by factors: an even fall is a straight line. */
function Falling({ still, curve }: { still: Still; curve: Point[] }) {
  const log = curve.map(([s, n]) => ({
    x: Math.log(Math.max(s, 0.1)),
    y: Math.log(Math.max(n, 1e-5)),
  }));
  const x0 = Math.min(...log.map((p) => p.x));
  const y1 = Math.max(...log.map((p) => p.y));
  const wide = Math.max(Math.max(...log.map((p) => p.x)) - x0, 1e-6);
  const high = Math.max(y1 - Math.min(...log.map((p) => p.y)), 1e-6);
  const points = log.map(
    (p) => `${(((p.x - x0) / wide) * 80).toFixed(1)},${(2 + ((y1 - p.y) / high) * 18).toFixed(1)}`,
  );
  const [[, first], [seconds, last]] = [curve[0], curve[curve.length - 1]] as [Point, Point];
  return (
    <div className="mt-1 flex items-end justify-between text-small whitespace-nowrap text-ink-2">
      <svg width="80" height="22" role="img" aria-label="Noise falling over time">
        <polyline points={points.join(" ")} fill="none" stroke="currentColor" />
      </svg>
      <span>
        noise {noiseOf(still, first)} → {noiseOf(still, last)} in {duration(seconds)}
      </span>
    </div>
  );
}
