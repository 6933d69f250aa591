import { useState } from "react";
import { answer, api } from "../api/client";
import { edit, inTurn } from "../state/edits";
import { useStudio } from "../state/store";
import { askSpread } from "../state/asking";
import { DialLine } from "./DialLine";
import type { Project } from "../api/types";
import { useChange } from "../state/queries";
import { Tip } from "../ui/Tip";
import { degrees } from "./words";

const GRID = ["columns", "rows", "across_m", "along_m", "turn_deg"] as const;

/** Linked copies in rows and columns around the first one; or each for itself. */
export function Repeat({ id, copies }: { id: string; copies: number }) {
  const project = useStudio((s) => s.project?.id);
  const [open, setOpen] = useState(false);
  const [grid, setGrid] = useState({
    columns: 3,
    rows: 1,
    across_m: 1.5,
    along_m: 1.5,
    turn_deg: 0,
  });
  if (!project) return null;
  const path = { project, source: id };
  const act = (asked: () => Promise<{ data?: Project }>) => inTurn(() => answer(asked()));
  const change = (key: keyof typeof grid) => (v: number) => setGrid({ ...grid, [key]: v });
  return (
    <div className="mt-1 border-t border-rule pt-1">
      <div className="flex items-baseline justify-between">
        <span className="text-ink-2">
          {copies > 1 ? `${copies} linked copies: an edit changes them all` : "One of its kind"}
        </span>
        <button className="quiet underline" aria-expanded={open} onClick={() => setOpen(!open)}>
          Repeat
        </button>
      </div>
      {open && (
        <>
          {GRID.map((key) => (
            <DialLine
              key={key}
              of="grid"
              name={key}
              value={grid[key]}
              {...(key === "turn_deg" && { write: degrees })}
              onHold={change(key)}
              onRelease={change(key)}
            />
          ))}
          <button
            className="button mt-1 w-full"
            onClick={() =>
              void act(() =>
                api.POST("/api/projects/{project}/fixtures/{source}/repeat", {
                  params: { path },
                  body: grid,
                }),
              )
            }
          >
            Make {grid.columns * grid.rows} of it
          </button>
        </>
      )}
      {open && (
        <Tip text="A linked copy in every lamp body that is a copy of the one this fixture is in">
          <button
            className="button mt-1 w-full"
            onClick={() =>
              void act(() =>
                api.POST("/api/projects/{project}/fixtures/{source}/alike", { params: { path } }),
              )
            }
          >
            Into all bodies like its own
          </button>
        </Tip>
      )}
      {open && <Spread key={id} id={id} />}
      {copies > 1 && (
        <button
          className="quiet underline"
          onClick={() =>
            void act(() =>
              api.POST("/api/projects/{project}/fixtures/{source}/separate", { params: { path } }),
            )
          }
        >
          Make them independent
        </button>
      )}
    </div>
  );
}

/** Copies over the whole room for a wanted illuminance: proposed with what they give, then placed. */
function Spread({ id }: { id: string }) {
  const [wanted, setWanted] = useState(300);
  const work = useChange(() => askSpread(id, wanted));
  const made = work.data;
  const place = () => {
    if (!made) return;
    const label = `Spread ${made.places.length} over the room`;
    void edit("source", id, { settings: { places: made.places } }, label).then(work.reset);
  };
  return (
    <div className="mt-1 border-t border-rule pt-1" role="group" aria-label="Evenly over the room">
      <DialLine
        of="spread"
        name="lux"
        value={wanted}
        onHold={(v) => setWanted(Math.round(v))}
        onRelease={(v) => setWanted(Math.round(v))}
      />
      <button className="button w-full" disabled={work.isPending} onClick={() => work.mutate()}>
        {work.isPending ? "Tracing …" : "Spread over the room"}
      </button>
      {made && (
        <p className="pt-1 text-ink-2" data-testid="spread">
          {made.columns} × {made.rows} over {made.width_m.toFixed(1)} × {made.depth_m.toFixed(1)} m
          give {made.average_lx.toFixed(0)} lx on tables, {made.least_lx.toFixed(0)} lx at least.{" "}
          <button className="quiet underline" onClick={place}>
            Place them
          </button>
        </p>
      )}
    </div>
  );
}
