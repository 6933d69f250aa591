import { Fold } from "../ui/Fold";
import { Scroll } from "../ui/Scroll";
import { Tabs } from "radix-ui";
import { Fragment, useEffect } from "react";
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import type { Daylight, Facts, Schemas } from "../api/types";
import { FirstStep } from "./FirstStep";
import { setToday } from "../state/sunPath";
import { editLook } from "../state/edits";
import { standing } from "../state/moved";
import { lookRow, useLookOf } from "../state/look";
import { get, set, useStudio } from "../state/store";
import { sheetOpen } from "../state/store/view";
import { DayBand } from "./DayBand";
import { PlanSheet } from "./PlanSheet";
import { SunChart } from "./SunChart";
import { clock, date, degrees, lux, place } from "./words";

const SHEETS = ["sun", "plan", "section"] as const;

/** The drawing sheet: plan and sun chart, the day, and what the sun and sky give. At the head of a column it folds. */
export function Sheet({ whole = false }: { whole?: boolean }) {
  const open = useStudio(sheetOpen) || whole;
  const kind = useStudio((s) => s.sheet);
  const project = useStudio((s) => s.project);
  const saved = useStudio(lookRow)?.settings;
  const look = useLookOf("day");
  const holds = useStudio((s) => !!s.held?.look);
  const lookId = useStudio((s) => s.lookId);
  const facts = useStudio((s) => s.facts);
  const building = project?.models[0];
  const model = building && standing(building.id, building.settings);
  // To cut a large building takes a processor for seconds, which the first picture needs more.
  const pictured = useStudio((s) => s.frame !== null || s.failure !== null);
  const plan = useQuery({
    queryKey: ["plan", project?.id, model],
    queryFn: () =>
      answer(
        api.GET("/api/projects/{project}/plan", {
          params: { path: { project: project?.id ?? "" } },
        }),
      ),
    enabled: !!project && pictured,
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
  const path = daylight.data?.chart.day;
  useEffect(() => {
    if (path) setToday(path);
  }, [path]);
  if (!project || !look) return null;
  const now = holds && facts ? facts : daylight.data?.facts;
  const show = (k: typeof kind) => {
    const { stage, sheetOpen: said } = get();
    set({ sheet: k, sheetOpen: { ...said, [stage]: true } });
  };
  // Folded, none of them is open, and each opens the sheet again.
  return (
    <Tabs.Root
      value={open ? kind : ""}
      onValueChange={(k) => show(k as typeof kind)}
      activationMode="manual"
    >
      <div className="mb-1 flex items-baseline justify-between gap-2">
        <Tabs.List className="flex gap-3" aria-label="What the sheet shows">
          {SHEETS.map((k) => (
            <Tabs.Trigger
              key={k}
              value={k}
              className="text-ink-2 capitalize hover:text-ink data-[state=active]:font-[650] data-[state=active]:text-ink"
            >
              {k}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {whole ? (
          <span className="text-ink-2">{place(project.latitude_deg, project.longitude_deg)}</span>
        ) : (
          <button
            className="quiet text-small"
            aria-expanded={open}
            aria-label={open ? "Fold the sheet" : "Open the sheet"}
            onClick={() => {
              const { stage, sheetOpen: said } = get();
              set({ sheetOpen: { ...said, [stage]: !open } });
            }}
          >
            {open ? "Fold ▴" : "Open ▾"}
          </button>
        )}
      </div>
      {open && (
        <>
          <Tabs.Content value={kind} className={whole ? "" : "sheet-drawing mx-auto w-full"}>
            {kind === "sun" && daylight.data && (
              <SunChart
                daylight={now ? { ...daylight.data, facts: now } : daylight.data}
                plan={plan.data ?? null}
              />
            )}
            {kind !== "sun" && <PlanSheet kind={kind} />}
          </Tabs.Content>
          <div className={`${whole ? "mt-3" : ""} mb-[5px] flex items-center justify-between`}>
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
            <span className="text-ink-2">{zoneName(project.time_zone)}</span>
          </div>
          {daylight.data && <DayBand band={daylight.data.chart.band} />}
          <FirstStep step="sun" className="relative mt-2 w-full!" />
          {daylight.data && now && <Numbers daylight={daylight.data} now={now} whole={whole} />}
        </>
      )}
    </Tabs.Root>
  );
}

/** Where the sun stands and what it gives; in a column only the first of it, until more is asked for. */
function Numbers(p: { daylight: Daylight; now: Facts; whole: boolean }) {
  const minutes = useLookOf("minutes")?.minutes ?? 0;
  const { sunrise, sunset, parts } = p.daylight.chart;
  const left = sunset === null ? 0 : sunset - minutes;
  const until =
    left > 0 && left < 720
      ? `, in ${left >= 60 ? `${Math.floor(left / 60)} h ` : ""}${Math.round(left % 60)} min`
      : "";
  const azimuth = <span data-testid="azimuth">{degrees(p.now.azimuth_deg)}</span>;
  const elevation = <span data-testid="elevation">{degrees(p.now.elevation_deg)}</span>;
  const rest = (
    <>
      <dt>Sun on the ground</dt>
      <dd>{lux(p.now.sun_lx)}</dd>
      <dt>Sky on the ground</dt>
      <dd>{lux(p.now.sky_lx)}</dd>
      <dt>Sunrise</dt>
      <dd>{sunrise === null ? "none this day" : clock(sunrise)}</dd>
      <dt>Sunset</dt>
      <dd>{sunset === null ? "none this day" : `${clock(sunset)}${until}`}</dd>
    </>
  );
  const table = "grid grid-cols-[1fr_auto] [&>dt]:text-ink-2";
  if (p.whole)
    return (
      <>
        <dl className={`mt-3 gap-y-[5px] ${table}`}>
          <dt>Azimuth</dt>
          <dd>{azimuth}</dd>
          <dt>Elevation</dt>
          <dd>{elevation}</dd>
          {rest}
        </dl>
        <Fold className="mt-2" title="Golden and blue hour, twilights">
          <DayParts parts={parts} />
        </Fold>
        {p.daylight.stands && <Stands of={p.daylight.stands} />}
      </>
    );
  return (
    <>
      <Fold
        className="mt-[2px]"
        title={
          <>
            Azimuth {azimuth}, elevation {elevation}
          </>
        }
      >
        <Scroll className="max-h-[24vh]">
          <div>
            <dl className={`mt-1 gap-y-[3px] ${table}`}>{rest}</dl>
            <DayParts parts={parts} />
          </div>
        </Scroll>
      </Fold>
      {p.daylight.stands && (
        <Scroll className="max-h-[12vh]">
          <div>
            <Stands of={p.daylight.stands} />
          </div>
        </Scroll>
      )}
    </>
  );
}

/** How a zone is written: the sign of an `Etc` zone is the other way about. */
const zoneName = (zone: string) =>
  zone
    .replace(/^Etc\/GMT([+-])/, (_, sign) => `UTC${sign === "-" ? "+" : "−"}`)
    .replace("Etc/", "");

/** Twilights, golden and blue hour; a click goes into the middle of one. */
function DayParts({ parts }: { parts: Schemas["DayPart"][] }) {
  const go = ([from, to]: [number, number], name: string) =>
    void editLook(
      { minutes: Math.round((from + to) / 2), sun: { mode: "time" } },
      `Into the ${name.toLowerCase()}`,
    );
  return (
    <>
      <dl className="mt-1 grid grid-cols-[1fr_auto_auto] gap-x-3 gap-y-[3px] text-small [&>dt]:text-ink-2">
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
    </>
  );
}

/** When the real sun stands where the free one was put, or the nearest it comes; one click goes there. */
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
