import { Fragment, useEffect } from "react";
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import type { Daylight, Schemas } from "../api/types";
import { editLook, lookRow, set, useLook, useStudio } from "../state/studio";
import { DayBand } from "./DayBand";
import { PlanSheet } from "./PlanSheet";
import { SunChart } from "./SunChart";
import { clock, date, degrees, lux, place } from "./words";

/** The drawing sheet: plan and sun chart, the day, and what the sun and sky give. */
export function Sheet() {
  const kind = useStudio((s) => s.sheet);
  const project = useStudio((s) => s.project);
  const saved = useStudio(lookRow)?.settings;
  const look = useLook();
  const held = useStudio((s) => s.held);
  const lookId = useStudio((s) => s.lookId);
  const facts = useStudio((s) => s.facts);
  const building = project?.models[0];
  const model = building && `${building.id} ${building.settings.up} ${building.settings.scale}`;
  const plan = useQuery({
    queryKey: ["plan", project?.id, model],
    queryFn: () =>
      answer(
        api.GET("/api/projects/{project}/plan", {
          params: { path: { project: project?.id ?? "" } },
        }),
      ),
    enabled: !!project,
    staleTime: Infinity,
  });
  const daylight = useQuery({
    queryKey: [
      "daylight",
      project?.id,
      lookId,
      project?.latitude_deg,
      project?.longitude_deg,
      project?.time_zone,
      saved?.day,
      saved?.minutes,
      saved?.sun,
      saved?.sky,
    ],
    queryFn: () =>
      answer(
        api.GET("/api/projects/{project}/looks/{look}/daylight", {
          params: { path: { project: project?.id ?? "", look: lookId } },
        }),
      ),
    enabled: !!project && !!lookId,
    placeholderData: (old) => old,
  });
  // Other panels ask where the sun stands, too.
  const told = daylight.data?.facts;
  useEffect(() => {
    if (told) set({ facts: told });
  }, [told]);
  if (!project || !look) return <aside className="border-r border-rule bg-sheet" />;
  const now = held?.look && facts ? facts : daylight.data?.facts;
  const sunset = daylight.data?.chart.sunset ?? null;
  const sunrise = daylight.data?.chart.sunrise ?? null;
  const left = sunset === null ? 0 : sunset - look.minutes;
  const until =
    left > 0 && left < 720
      ? `, in ${left >= 60 ? `${Math.floor(left / 60)} h ` : ""}${Math.round(left % 60)} min`
      : "";
  return (
    <aside
      className="flex min-h-0 flex-col overflow-y-auto border-r border-rule bg-sheet px-[14px] pt-[10px] pb-3"
      aria-label="Sheet"
    >
      <div className="mb-1 flex items-baseline justify-between gap-2">
        <div className="flex gap-3" role="group" aria-label="What the sheet shows">
          {(["sun", "plan", "section"] as const).map((k) => (
            <button
              key={k}
              aria-pressed={k === kind}
              className={`capitalize ${k === kind ? "font-[650]" : "text-ink-2 hover:text-ink"}`}
              onClick={() => set({ sheet: k })}
            >
              {k}
            </button>
          ))}
        </div>
        <span className="text-ink-2">{place(project.latitude_deg, project.longitude_deg)}</span>
      </div>
      {kind === "sun" && daylight.data && (
        <SunChart
          daylight={now ? { ...daylight.data, facts: now } : daylight.data}
          plan={plan.data ?? null}
        />
      )}
      {kind !== "sun" && <PlanSheet kind={kind} />}
      <div className="mt-3 mb-2 flex items-center justify-between">
        <label className="relative font-[650] hover:underline">
          {date(look.day)} {look.day.slice(0, 4)}
          <input
            type="date"
            className="absolute inset-0 cursor-pointer opacity-0"
            aria-label="Date"
            value={look.day}
            onClick={(e) => e.currentTarget.showPicker()}
            onChange={(e) =>
              e.target.value && void editLook({ day: e.target.value }, "Change the date")
            }
          />
        </label>
        <span className="text-ink-2">
          {project.time_zone.replace("Etc/GMT", "UTC").replace("UTC-", "UTC+")}
        </span>
      </div>
      {daylight.data && <DayBand band={daylight.data.chart.band} />}
      {now && (
        <dl className="mt-3 grid grid-cols-[1fr_auto] gap-y-[5px] [&>dt]:text-ink-2">
          <dt>Azimuth</dt>
          <dd data-testid="azimuth">{degrees(now.azimuth_deg)}</dd>
          <dt>Elevation</dt>
          <dd data-testid="elevation">{degrees(now.elevation_deg)}</dd>
          <dt>Sun on the ground</dt>
          <dd>{lux(now.sun_lx)}</dd>
          <dt>Sky on the ground</dt>
          <dd>{lux(now.sky_lx)}</dd>
          <dt>Sunrise</dt>
          <dd>{sunrise === null ? "none this day" : clock(sunrise)}</dd>
          <dt>Sunset</dt>
          <dd>{sunset === null ? "none this day" : `${clock(sunset)}${until}`}</dd>
        </dl>
      )}
      {daylight.data && <DayParts parts={daylight.data.chart.parts} />}
      {daylight.data?.stands && <Stands of={daylight.data.stands} />}
    </aside>
  );
}

/** When the real sun stands where the free one was put, or the nearest it comes; one click goes there. */
/** Twilights, golden and blue hour; a click goes into the middle of one. */
function DayParts({ parts }: { parts: Schemas["DayPart"][] }) {
  const go = ([from, to]: [number, number], name: string) =>
    void editLook(
      { minutes: Math.round((from + to) / 2), sun: { mode: "time" } },
      `Into the ${name.toLowerCase()}`,
    );
  return (
    <details className="mt-2">
      <summary className="text-ink-2">Golden and blue hour, twilights</summary>
      <dl className="mt-1 grid grid-cols-[1fr_auto_auto] gap-x-3 gap-y-[3px] text-[11.5px] [&>dt]:text-ink-2">
        {parts.map((p) => (
          <Fragment key={p.name}>
            <dt>{p.name}</dt>
            {([p.morning, p.evening] as const).map((ends, i) => (
              <dd key={i}>
                {ends ? (
                  <button className="hover:underline" onClick={() => go(ends, p.name)}>
                    {clock(ends[0])}–{clock(ends[1])}
                  </button>
                ) : (
                  "none"
                )}
              </dd>
            ))}
          </Fragment>
        ))}
      </dl>
    </details>
  );
}

function Stands({ of }: { of: NonNullable<Daylight["stands"]> }) {
  const near = of.matches.filter((m) => !of.ever || m.apart_deg <= 1.2);
  return (
    <div className="mt-3 border-t border-rule pt-2" data-testid="stands">
      <p className="text-ink-2">
        {of.ever ? "The real sun stands here" : "The real sun never stands here; nearest"}
      </p>
      {near.map((m) => (
        <button
          key={m.day}
          className="block hover:underline"
          onClick={() =>
            void editLook(
              { day: m.day, minutes: m.minutes, sun: { mode: "time" } },
              "Take the real sun",
            )
          }
        >
          {date(m.day)}, {clock(m.minutes)}
          <span className="text-ink-2"> ({m.apart_deg.toFixed(1)}° off)</span>
        </button>
      ))}
    </div>
  );
}
