import { Scroll } from "../ui/Scroll";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Look, ModelEdits } from "../api/types";
import { askGain, askOpenings } from "../state/asking";
import { editLook, editModel } from "../state/edits";
import { viewRow } from "../state/look";
import { set, useStudio } from "../state/store";
import { DialLine } from "./DialLine";
import { Section } from "../ui/Section";
import { Dressed, DressedAs } from "./Dressed";
import { metres, signed } from "./words";
import { Tick } from "../ui/Tick";
import { Cheat } from "../ui/Tip";

const WAYS = [
  "north",
  "north-east",
  "east",
  "south-east",
  "south",
  "south-west",
  "west",
  "north-west",
];

/** Where an opening lets light go to, in words, from its azimuth. */
const facing = (azimuth: number | null) =>
  azimuth === null ? "from above" : `to the ${WAYS[Math.round(azimuth / 45) % 8]}`;

/** The openings of the building as they were found. */
export function useOpenings() {
  const model = useStudio((s) => s.project?.models[0]?.settings);
  const ready = useStudio((s) => (s.frame ? !s.frame.empty : false));
  const view = useStudio((s) => JSON.stringify(viewRow(s)?.settings));
  return useQuery({
    queryKey: [
      "openings",
      view,
      model?.asset,
      model?.edits.hidden,
      model?.edits.materials,
      model?.edits.openings,
    ],
    queryFn: askOpenings,
    enabled: ready,
    staleTime: Infinity,
    placeholderData: (old) => old,
  });
}

const UNTOUCHED = { on: true, turned: false, gain: 0 };

/** What openings are worth in this view: noise in equal time, measured when asked. */
function Gain() {
  const view = useStudio((s) => s.viewId);
  const look = useStudio((s) => s.lookId);
  const [asked, setAsked] = useState("");
  const measured = useQuery({
    queryKey: ["gain", view, look],
    queryFn: askGain,
    enabled: asked === view + look,
    staleTime: Infinity,
    gcTime: 0,
  });
  const { direct, whole } = measured.data ?? { direct: null, whole: null };
  return (
    <p className="mb-1 text-ink-2" data-testid="portal-gain">
      {measured.isFetching
        ? "Measuring: some seconds …"
        : measured.data &&
          (direct === null || whole === null
            ? "Nothing to measure: no opening is in use, or the sky is dark or muted."
            : `In this view, in equal time, noise of daylight ÷ ${whole.toFixed(1)}; of what comes in directly ÷ ${direct.toFixed(1)}.`)}{" "}
      {!measured.isFetching && (
        <button
          className="quiet underline"
          onClick={() => {
            if (asked === view + look) void measured.refetch();
            setAsked(view + look);
          }}
        >
          {measured.data ? "Measure again" : "Measure what they save here"}
        </button>
      )}
    </p>
  );
}

/** Window portals: which openings light is drawn through, one by one, and those placed by hand. */
export function Openings({ sky }: { sky: Look["sky"] }) {
  const used = useStudio((s) => s.frame?.openings ?? 0);
  const model = useStudio((s) => s.project?.models[0]);
  const picking = useStudio((s) => s.picking);
  const shown = useStudio((s) => s.openingsShown);
  const found = useOpenings();
  const [open, setOpen] = useState("");
  const [held, setHeld] = useState<number | null>(null);
  if (!model) return null;
  const { edits } = model.settings;
  const one = (name: string) => ({ ...UNTOUCHED, ...edits.openings[name] });
  const change = (name: string, patch: Partial<typeof UNTOUCHED>, label: string) =>
    void editModel(
      { openings: { [name]: { ...one(name), ...patch } } } as Partial<ModelEdits>,
      label,
    );
  const added = (name: string, gain: number | null) =>
    void editModel(
      {
        added_openings: edits.added_openings.flatMap((o) =>
          o.name !== name ? [o] : gain === null ? [] : [{ ...o, gain }],
        ),
      },
      gain === null ? `Remove ${name}` : `Gain of ${name}`,
    );
  const gainLine = (value: number, take: (v: number) => void) => (
    <DialLine
      of="opening"
      name="gain"
      value={held ?? value}
      onHold={setHeld}
      onRelease={(v) => {
        setHeld(null);
        take(v);
      }}
    />
  );
  const rows = [
    ...(found.data ?? []).map((o) => ({ ...o, own: false, ...one(o.name) })),
    ...edits.added_openings.map((o) => ({
      ...o,
      own: true,
      on: true,
      turned: false,
      group: "Placed by hand",
      doubt: null,
      inward_azimuth_deg: undefined,
    })),
  ];
  const groups = [...new Set(rows.map((o) => o.group))].sort();
  const changeAll = (group: string, on: boolean) =>
    void editModel(
      {
        openings: Object.fromEntries(
          rows.filter((o) => o.group === group).map((o) => [o.name, { ...one(o.name), on }]),
        ),
      } as Partial<ModelEdits>,
      `${on ? "With" : "Without"} ${group.toLowerCase()}`,
    );
  const line = (o: (typeof rows)[number]) => (
    <li key={`${o.own}${o.name}`} className="pl-2">
      <div className={`flex justify-between gap-2 ${o.on ? "" : "text-ink-3"}`}>
        <button
          className={`min-w-0 flex-1 truncate text-left ${open === o.name ? "font-[650]" : ""}`}
          aria-expanded={open === o.name}
          onClick={() => {
            setOpen(open === o.name ? "" : o.name);
            setHeld(null);
          }}
        >
          {o.name}{" "}
          <span className="text-ink-2">
            {o.width.toFixed(1)} × {metres(o.height)}
          </span>
          <DressedAs opening={o.name} />
          {o.gain !== 0 && (
            <span className="text-ink-2">
              {" "}
              {signed(o.gain)} EV <Cheat why="A cheat: more than comes in" />
            </span>
          )}
        </button>
        {o.own ? (
          <button
            className="quiet text-small underline"
            aria-label={`Remove ${o.name}`}
            onClick={() => added(o.name, null)}
          >
            remove
          </button>
        ) : (
          <button
            className="quiet text-small underline"
            aria-label={`${o.on ? "Leave out" : "Use"} ${o.name}`}
            onClick={() => change(o.name, { on: !o.on }, `${o.on ? "Without" : "With"} ${o.name}`)}
          >
            {o.on ? "leave out" : "use"}
          </button>
        )}
      </div>
      {o.on && o.doubt && (
        <p className="text-sun-ink" role="note">
          {o.doubt}
        </p>
      )}
      {open === o.name && (
        <div className="pb-1 pl-2">
          <p className="text-ink-2">
            {o.inward_azimuth_deg !== undefined &&
              `Lets light in ${facing(
                o.turned && o.inward_azimuth_deg !== null
                  ? (o.inward_azimuth_deg + 180) % 360
                  : o.inward_azimuth_deg,
              )}`}
            {!o.own && (
              <>
                {" · "}
                <button
                  className="quiet underline"
                  onClick={() => change(o.name, { turned: !o.turned }, `Turn ${o.name} round`)}
                >
                  turn round
                </button>
              </>
            )}
          </p>
          {gainLine(o.gain, (gain) =>
            o.own ? added(o.name, gain) : change(o.name, { gain }, `Gain of ${o.name}`),
          )}
          <Dressed
            opening={o.name}
            alike={rows.filter((r) => r.group === o.group && r.on).map((r) => r.name)}
          />
        </div>
      )}
    </li>
  );
  return (
    <Section title="Openings" aside={`${rows.length} · ${used} in use`}>
      <label className="flex items-center gap-2 pb-1">
        <Tick
          checked={sky.portals || sky.closed}
          disabled={sky.closed}
          onChange={(on) =>
            void editLook({ sky: { portals: on } }, "Sample daylight through openings")
          }
        />
        Sample daylight through openings: less noise, same light
      </label>
      <label className="flex items-center gap-2 pb-1">
        <Tick
          checked={sky.closed}
          disabled={rows.length === 0}
          onChange={(on) => void editLook({ sky: { closed: on } }, "Close the room")}
        />
        <span>
          Light only through openings <Cheat why="A cheat: missing walls stay dark" />
        </span>
      </label>
      <label className="flex items-center gap-2 pb-1">
        <Tick checked={shown} onChange={(on) => set({ openingsShown: on })} />
        Draw their outlines over the picture
      </label>
      <Scroll className={`my-1 ${open ? "max-h-[380px]" : "max-h-[168px]"}`}>
        <ul aria-label="Openings">
          {groups.map((g) => {
            const members = rows.filter((o) => o.group === g);
            const on = members.some((o) => o.on);
            return (
              <li key={g}>
                <div className="flex justify-between gap-2 pt-1 font-[600]">
                  <span>
                    {g} <span className="font-normal text-ink-2">· {members.length}</span>
                  </span>
                  {members.every((o) => !o.own) && (
                    <button
                      className="quiet text-small font-normal underline"
                      aria-label={`${on ? "Leave out" : "Use"} all ${g.toLowerCase()}`}
                      onClick={() => changeAll(g, !on)}
                    >
                      {on ? "leave out" : "use"}
                    </button>
                  )}
                </div>
                <ul aria-label={g}>{members.map(line)}</ul>
              </li>
            );
          })}
        </ul>
      </Scroll>
      {rows.length > 0 && <Gain />}
      <button
        className="button"
        aria-pressed={picking === "opening"}
        onClick={() => set({ picking: "opening", placing: null })}
      >
        Add one by two corners
      </button>
    </Section>
  );
}
