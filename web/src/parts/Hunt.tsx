import { useEffect } from "react";
import { beginAim, hunt, set, stopHunting, takeBrush, useHunt, type Score } from "../state/hunt";
import { editLook } from "../state/edits";
import { lookRow, viewRow } from "../state/look";
import { useStudio } from "../state/store";
import { Section } from "../ui/Section";
import { clock, date } from "./words";
import { Tick } from "../ui/Tick";
import { Select } from "../ui/Select";
import { DialLine } from "./DialLine";

const SCORES: Record<Score, string> = {
  contrast: "Light against dark",
  share: "Picture in sun",
  pattern: "Borders of light and dark",
  spot: "Light on pinned point 1",
  faces: "Pinned faces 1 and 2 apart",
  shadows: "Long shadows",
  raking: "Flat along surfaces",
  middle: "Middle of the picture in sun",
  ahead: "Sun ahead of the camera",
  seen: "Contrast as the look shows it",
  wanted: "Light where it is painted",
};

/** Every position of the sun scored for this view, drawn on the chart. */
export function Hunt() {
  const { score, realOnly, map, busy, strokes } = useHunt();
  const pins = useStudio((s) => s.readings.length);
  const view = useStudio((s) => JSON.stringify(viewRow(s)?.settings));
  const on = score !== null;
  // What is seen of a pattern depends on how the look shows it.
  const shown = useStudio((s) => JSON.stringify(lookRow(s)?.settings.exposure));
  const asShown = score === "seen" || score === "wanted" ? shown : "";
  useEffect(() => {
    if (on) void hunt();
  }, [on, view, pins, strokes, asShown]);
  const needed = score === "faces" ? 2 : score === "spot" ? 1 : 0;
  return (
    <Section
      title="Pattern map"
      aside={
        on && <span data-testid="hunt">{busy ? "scoring …" : `${map?.share.length} suns`}</span>
      }
    >
      <Select
        className="w-full"
        label="What the sun should do"
        value={score ?? ""}
        options={[
          { value: "", label: "Not shown" },
          ...Object.entries(SCORES).map(([value, label]) => ({ value, label })),
        ]}
        onPick={(wanted) =>
          wanted
            ? set({ score: wanted as Score, ...(wanted === "wanted" ? {} : { brush: null }) })
            : stopHunting()
        }
      />
      {score === "wanted" && <Brush />}
      {on && pins < needed && (
        <p className="mt-1 text-sun-ink">
          {needed === 1 ? "Pin a point" : "Pin two faces"} with the meter (M) first.
        </p>
      )}
      {on && (
        <label className="mt-1 flex items-center gap-2">
          <Tick checked={realOnly} onChange={(on) => set({ realOnly: on })} />
          Only where the sun really goes
        </label>
      )}
      {on && (
        <p className="mt-1 text-ink-2">
          Strong dots on the chart are good places, the ringed one is best. Click one to go there.
        </p>
      )}
    </Section>
  );
}

/** Painting where light is wanted and where none is. */
function Brush() {
  const { brush, strokes } = useHunt();
  return (
    <>
      <div className="mt-1 grid grid-cols-2 gap-1">
        <button
          className="button"
          aria-pressed={brush?.wanted === true}
          onClick={() => takeBrush(true)}
        >
          Light here
        </button>
        <button
          className="button"
          aria-pressed={brush?.wanted === false}
          onClick={() => takeBrush(false)}
        >
          None here
        </button>
      </div>
      {brush && (
        <DialLine
          of="brush"
          name="radius"
          value={brush.radius}
          onHold={(radius) => set({ brush: { ...brush, radius } })}
          onRelease={(radius) => set({ brush: { ...brush, radius } })}
        />
      )}
      {strokes.length === 0 ? (
        <p className="mt-1 text-ink-2">Paint in the picture where the sun should fall.</p>
      ) : (
        <button className="quiet mt-1 underline" onClick={() => set({ strokes: [] })}>
          Clear what is painted
        </button>
      )}
    </>
  );
}

/** Two clicks in the picture give the sun; the calendar says when it really happens. */
export function AimTheSun() {
  const { aiming, aim } = useHunt();
  const take = (day: string, minutes: number) =>
    editLook({ day, minutes, sun: { mode: "time" } }, "Aim the sun");
  return (
    <Section
      title="Aim the sun"
      aside={
        (aiming || aim) && (
          <button
            className="quiet underline"
            onClick={() => set({ aiming: null, aim: null, patch: null })}
          >
            Done
          </button>
        )
      }
    >
      <div className="grid grid-cols-2 gap-1">
        <button className="button" onClick={() => beginAim(false)}>
          Through a window
        </button>
        <button className="button" onClick={() => beginAim(true)}>
          Any way
        </button>
      </div>
      {aiming && (
        <p className="mt-1 text-ink-2">
          {aiming === "patch"
            ? "Click in the picture, or on the plan, where the sun should fall."
            : "Now click the window it should come through."}
        </p>
      )}
      {aim && <Seasons aim={aim} take={take} />}
    </Section>
  );
}

function Seasons(p: {
  aim: NonNullable<ReturnType<typeof useHunt.getState>["aim"]>;
  take: (day: string, minutes: number) => void;
}) {
  const { aim } = p;
  const best = aim.open[0];
  if (!best)
    return (
      <p className="mt-1 text-sun-ink" data-testid="aimed">
        Something stands in the way from everywhere. Choose another patch or window.
      </p>
    );
  const free = () =>
    void editLook(
      { sun: { mode: "free", azimuth_deg: best[0], elevation_deg: Math.max(best[1], 0) } },
      "Aim the sun",
    );
  return (
    <div className="mt-2" data-testid="aimed">
      {aim.seasons.length > 0 ? (
        <p className="text-ink-2">The real sun does it</p>
      ) : (
        <p className="text-ink-2">
          The real sun never does it.
          {aim.nearest && ` It comes within ${aim.nearest.apart_deg}°:`}
        </p>
      )}
      {aim.seasons.slice(0, 8).map((s) => (
        <button
          key={`${s.first}${s.begins}`}
          className="flex w-full justify-between text-left hover:underline"
          onClick={() => p.take(s.day, s.minutes)}
        >
          <span>{s.first === s.last ? date(s.first) : `${date(s.first)} – ${date(s.last)}`}</span>
          <span className="text-ink-2">
            {clock(s.begins)}–{clock(s.ends)}
          </span>
        </button>
      ))}
      {aim.seasons.length === 0 && aim.nearest && (
        <button
          className="block hover:underline"
          onClick={() => aim.nearest && p.take(aim.nearest.day, aim.nearest.minutes)}
        >
          {date(aim.nearest.day)}, {clock(aim.nearest.minutes)}
        </button>
      )}
      <button className="quiet mt-1 underline" onClick={free}>
        Put a free sun there
      </button>
    </div>
  );
}
