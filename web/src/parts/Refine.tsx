import { useRef, useState } from "react";
import { answer, api } from "../api/client";
import type { Still } from "../api/types";
import { DialLine } from "./DialLine";
import { inTurn } from "../state/edits";
import { Select } from "../ui/Select";

type Box = [number, number, number, number];

/** More passes for a finished still: all of it or a region drawn on it, all sources or one. */
export function Refine(p: { still: Still; project: string; shown: string; onDone: () => void }) {
  const [region, setRegion] = useState<Box | null>(null);
  const [source, setSource] = useState("");
  const [seconds, setSeconds] = useState(120);
  const [asked, setAsked] = useState(false);
  const order = async () => {
    setAsked(true);
    const more = { region, only: source ? [source] : [], noise: 0.005, seconds };
    const made = await inTurn(
      () =>
        answer(
          api.POST("/api/projects/{project}/stills/{still}/again", {
            params: { path: { project: p.project, still: p.still.id } },
            body: more,
          }),
        ),
      (ordered) => ordered.project,
    );
    if (made) p.onDone();
    setAsked(false);
  };
  return (
    <div className="mt-2" data-testid="refine">
      <Drawn shown={p.shown} name={p.still.name} region={region} onDraw={setRegion} />
      <p className="my-1 text-ink-2">
        {region ? (
          <>
            Only this region gets more passes.{" "}
            <button className="underline" onClick={() => setRegion(null)}>
              All of it
            </button>
          </>
        ) : (
          "Drag a region on it, or refine all of it."
        )}
      </p>
      <Select
        className="mb-1 w-full"
        label="Source to refine"
        value={source}
        options={[
          { value: "", label: "All sources" },
          ...Object.entries(p.still.sources).map(([id, name]) => ({
            value: id,
            label: `Only ${name}`,
          })),
        ]}
        onPick={setSource}
      />
      <DialLine
        of="again"
        name="seconds"
        value={seconds}
        onHold={setSeconds}
        onRelease={setSeconds}
      />
      <button className="button mt-1" disabled={asked} onClick={() => void order()}>
        Add passes
      </button>
    </div>
  );
}

/** The still with a region that is drawn by dragging. */
function Drawn(p: {
  shown: string;
  name: string;
  region: Box | null;
  onDraw: (region: Box | null) => void;
}) {
  const from = useRef<[number, number] | null>(null);
  const place = (e: React.PointerEvent): [number, number] => {
    const box = e.currentTarget.getBoundingClientRect();
    const within = (v: number) => Math.min(Math.max(v, 0), 1);
    return [within((e.clientX - box.left) / box.width), within((e.clientY - box.top) / box.height)];
  };
  const r = p.region;
  return (
    <div
      className="relative cursor-crosshair touch-none select-none"
      data-testid="refine-picture"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = place(e);
      }}
      onPointerMove={(e) => {
        if (!from.current) return;
        const [x, y] = place(e);
        const [a, b] = from.current;
        p.onDraw([Math.min(a, x), Math.min(b, y), Math.max(a, x), Math.max(b, y)]);
      }}
      onPointerUp={() => {
        from.current = null;
        if (r && (r[2] - r[0] < 0.02 || r[3] - r[1] < 0.02)) p.onDraw(null);
      }}
    >
      <img src={p.shown} alt={p.name} draggable={false} className="block w-full" />
      {r && (
        <i
          className="absolute outline-2 outline-blue"
          style={{
            left: `${r[0] * 100}%`,
            top: `${r[1] * 100}%`,
            width: `${(r[2] - r[0]) * 100}%`,
            height: `${(r[3] - r[1]) * 100}%`,
          }}
        />
      )}
    </div>
  );
}
