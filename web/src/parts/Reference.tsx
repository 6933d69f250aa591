import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { answer, api, form } from "../api/client";
import { editLook } from "../state/edits";
import { useLookOf, useLookPart } from "../state/look";
import { change, queries, say, useChange } from "../state/queries";
import {
  addArea,
  addPoint,
  chooseReference,
  comeNearer,
  forget,
  pictureOf,
  readBeside,
  set,
  takeStep,
  useReference,
  type Area,
  type Beside,
} from "../state/reference";
import { useStudio } from "../state/store";
import { useVocabulary } from "../state/vocabulary";
import { closeUp, useZoom } from "../state/zoom";
import { Choice } from "../ui/Choice";
import { FileButton } from "../ui/FileButton";
import { Section } from "../ui/Section";
import { Tip } from "../ui/Tip";
import { WipeLine } from "./WipeLine";
import { clock, signed } from "./words";

/** Time between two readings while light comes in, in ms. */
const READ_EVERY = 1500;

/** A picture that the look is lit towards: what it holds, and steps towards it. */
export function Reference() {
  const reference = useLookPart("reference") ?? null;
  return (
    <Section
      title="Reference"
      aside={
        reference ? (
          <button className="quiet underline" onClick={() => void chooseReference(null, "")}>
            None
          </button>
        ) : (
          "of this look"
        )
      }
    >
      <Pictures chosen={reference} />
      {reference && <Compared key={reference} reference={reference} />}
    </Section>
  );
}

function Pictures({ chosen }: { chosen: string | null }) {
  const { references } = useVocabulary();
  const shelf = useQuery({
    queryKey: ["references"],
    queryFn: () => answer(api.GET("/api/references")),
    staleTime: Infinity,
  });
  const add = useChange((file: File) => answer(api.POST("/api/references", form(file))), {
    stale: "references",
    then: (made) => void chooseReference(made.id, made.name),
  });
  const remove = async (id: string) => {
    const params = { path: { reference: id } };
    const left = await change(() => answer(api.DELETE("/api/references/{reference}", { params })));
    if (!left) return;
    queries.setQueryData(["references"], left);
    await chooseReference(null, "");
  };
  return (
    <>
      {shelf.data?.length === 0 && (
        <p className="text-ink-2">
          Drop a photograph or a painting you want to come near: its light is read beside yours.
        </p>
      )}
      <div className="grid grid-cols-3 gap-1" role="group" aria-label="References">
        {shelf.data?.map((r) => (
          <Tip key={r.id} text={r.name}>
            <button
              aria-label={r.name}
              aria-pressed={r.id === chosen}
              className={`h-[46px] overflow-hidden border ${r.id === chosen ? "border-ink outline-1 outline-ink" : "border-rule"}`}
              onClick={() => void chooseReference(r.id, r.name)}
            >
              <img
                src={`/api/references/${r.id}/thumbnail`}
                alt=""
                className="h-full w-full object-cover"
              />
            </button>
          </Tip>
        ))}
      </div>
      <span className="flex justify-between">
        <FileButton
          label="Reference file"
          endings={references}
          className="quiet underline"
          onFiles={([file]) => file && add.mutate(file)}
        >
          {add.isPending ? "Reading …" : "Add a picture"}
        </FileButton>
        {chosen && (
          <button className="quiet underline" onClick={() => void remove(chosen)}>
            Take off the shelf
          </button>
        )}
      </span>
    </>
  );
}

/** Readings are taken again as light comes in, not with every frame. */
function useReadings(reference: string) {
  const frame = useStudio((s) => s.frame);
  const newest = useRef(frame);
  const { itsAreas, myAreas } = useReference();
  newest.current = frame;
  useEffect(() => forget, [reference]);
  useEffect(() => {
    let read: unknown = null;
    const again = () => {
      if (newest.current === read || !newest.current || newest.current.moving) return;
      const seen = newest.current;
      void readBeside()
        .then(() => (read = seen))
        .catch(() => undefined);
    };
    again();
    const timer = setInterval(again, READ_EVERY);
    return () => clearInterval(timer);
  }, [reference, itsAreas, myAreas]);
}

function Compared({ reference }: { reference: string }) {
  const { lies, read, proposals, busy, marking } = useReference();
  useReadings(reference);
  return (
    <>
      <div className="mt-1">
        <Choice
          label="Where the reference lies"
          value={lies}
          options={[
            { value: "hidden", label: "Hidden" },
            { value: "corner", label: "Corner" },
            { value: "beside", label: "Beside" },
            { value: "wipe", label: "Wipe" },
          ]}
          onChoose={(lies) => set({ lies })}
        />
      </div>
      {read && <Readings read={read} />}
      <div className="mt-2 grid grid-cols-2 gap-1">
        <button
          className="button"
          aria-pressed={marking}
          onClick={() =>
            marking
              ? set({ marking: false })
              : set({ marking: true, edge: null, lies: "beside", itsAreas: [], myAreas: [] })
          }
        >
          Key and fill
        </button>
        <SunOfShadow />
      </div>
      {marking && (
        <p className="mt-1 text-ink-2">
          Drag over the key, then over the fill, in the reference and in the picture.
        </p>
      )}
      <button
        className="button mt-2 w-full font-[600]"
        disabled={busy}
        onClick={() => void comeNearer()}
      >
        {busy ? "Looking for steps …" : "Come nearer"}
      </button>
      {proposals && !busy && <Steps />}
    </>
  );
}

const SPAN = 10.5;
const WIDTH = 244;
const HEIGHT = 58;

/** Where the pixels of both lie, in stops about middle grey, and what sums them up. */
function Readings({ read }: { read: Beside }) {
  const { reference: its, picture: mine, apart } = read;
  const top = Math.max(...its.stops, ...mine.stops, 0.01);
  const points = (stops: number[]) =>
    stops.map(
      (v, i) =>
        `${(((i + 0.5) / stops.length) * WIDTH).toFixed(1)},${(HEIGHT * (1 - 0.9 * Math.sqrt(v / top))).toFixed(1)}`,
    );
  const rows: [string, string, string][] = [
    ["Middle", `${signed(its.middle)} EV`, `${signed(mine.middle)} EV`],
    ["Contrast", `${its.contrast.toFixed(1)} EV`, `${mine.contrast.toFixed(1)} EV`],
    ["Saturation", chroma(its.saturation), chroma(mine.saturation)],
    ["Lights", warmth(its.lights), warmth(mine.lights)],
    ["Shadows", warmth(its.shadows), warmth(mine.shadows)],
  ];
  if (its.ratio !== null || mine.ratio !== null)
    rows.push(["Key over fill", stops(its.ratio), stops(mine.ratio)]);
  return (
    <figure className="mt-2" data-testid="reference-readings">
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT + 14}`}
        className="w-full"
        role="img"
        aria-label="How much of the reference (filled) and of the picture (line) is how bright, in stops from middle grey"
      >
        <polygon
          points={`0,${HEIGHT} ${points(its.stops).join(" ")} ${WIDTH},${HEIGHT}`}
          className="fill-ink-3/40"
        />
        <polyline
          points={points(mine.stops).join(" ")}
          fill="none"
          className="stroke-ink"
          strokeWidth="1.5"
        />
        <line x1="0" x2={WIDTH} y1={HEIGHT} y2={HEIGHT} className="stroke-rule" />
        {[-6, -4, -2, 0, 2].map((m) => (
          <text
            key={m}
            x={((m + 8) / SPAN) * WIDTH}
            y={HEIGHT + 12}
            textAnchor="middle"
            className="fill-ink-2 text-fine"
          >
            {m === 0 ? "grey" : signed(m, 0)}
          </text>
        ))}
      </svg>
      <table className="w-full">
        <thead>
          <tr className="text-ink-2">
            <td />
            <th className="text-right font-normal">reference</th>
            <th className="text-right font-normal">picture</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, a, b]) => (
            <tr key={name}>
              <th className="text-left font-normal text-ink-2">{name}</th>
              <td className="text-right">{a}</td>
              <td className="text-right">{b}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Tip text="Mean difference of lightness and colour between equal shares of both pictures, in steps of what is just noticed">
        <p className="mt-1" data-testid="apart">
          <b>{apart.toFixed(1)}</b> steps apart
        </p>
      </Tip>
    </figure>
  );
}

const stops = (value: number | null) => (value === null ? "–" : `${signed(value)} EV`);
const chroma = (value: number) => (value * 100).toFixed(1);
/** From cold to warm, in words and a number. */
const warmth = (value: number) =>
  `${value > 0.008 ? "warm" : value < -0.008 ? "cold" : "neutral"} ${signed(value * 100)}`;

/** Steps towards the reference, each taken by itself. */
function Steps() {
  const proposals = useReference((s) => s.proposals);
  if (!proposals) return null;
  if (proposals.found.length === 0)
    return (
      <p className="mt-1 text-ink-2" data-testid="steps">
        Nothing would bring it much nearer now. It is {proposals.apart.toFixed(1)} steps apart.
      </p>
    );
  return (
    <ul className="mt-1 flex flex-col gap-1" aria-label="Steps towards the reference">
      {proposals.found.map((step) => (
        <li key={step.kind} className="flex items-center gap-2" data-testid="step">
          <img src={step.print} alt="" className="h-[44px] w-[78px] shrink-0 object-cover" />
          <span className="min-w-0 flex-1 leading-[15px]">
            {step.title}
            <br />
            <span className="text-ink-2">
              {proposals.apart.toFixed(1)} → {step.apart.toFixed(1)}
            </span>
          </span>
          <button
            className="button"
            aria-label={`Take ${step.title}`}
            onClick={() => void takeStep(step)}
          >
            Take
          </button>
        </li>
      ))}
    </ul>
  );
}

const ASKED = ["the foot of an upright edge", "the top of that edge", "the end of its shadow"];

/** The height of the reference's sun by three clicks, given to the sun of the look. */
function SunOfShadow() {
  const { edge, sun } = useReference();
  const look = useLookOf("sun");
  const at = (minutes: number) =>
    void editLook({ minutes, sun: { mode: "time" } }, "Sun of the reference");
  return (
    <>
      <button
        className="button"
        aria-pressed={edge !== null}
        onClick={() =>
          edge ? set({ edge: null }) : set({ edge: [], sun: null, marking: false, lies: "beside" })
        }
      >
        Sun by a shadow
      </button>
      {edge && (
        <p className="col-span-2 text-ink-2">Click {ASKED[edge.length]} in the reference.</p>
      )}
      {sun && look && (
        <p className="col-span-2" data-testid="sun-height">
          Its sun stands {sun.elevation_deg.toFixed(0)}° high, if it was seen from the side.{" "}
          {[sun.morning, sun.evening].map(
            (m, n) =>
              m != null && (
                <button key={n} className="mr-2 underline" onClick={() => at(m)}>
                  {clock(m)}
                </button>
              ),
          )}
          {sun.morning == null && sun.evening == null && (
            <button
              className="underline"
              onClick={() =>
                void editLook(
                  { sun: { mode: "free", elevation_deg: sun.elevation_deg } },
                  "Sun of the reference",
                )
              }
            >
              Free sun: it is not so high on this day
            </button>
          )}
        </p>
      )}
    </>
  );
}

/** What is dragged out over a picture, or clicked on it. */
function Catcher({ of, points }: { of: "itsAreas" | "myAreas"; points: boolean }) {
  const from = useRef<[number, number] | null>(null);
  const [drawn, setDrawn] = useState<Area | null>(null);
  const place = (e: React.PointerEvent): [number, number] => {
    const box = e.currentTarget.getBoundingClientRect();
    const share = (v: number) => Math.min(Math.max(v, 0), 1);
    return [share((e.clientX - box.left) / box.width), share((e.clientY - box.top) / box.height)];
  };
  const area = ([x, y]: [number, number], [u, v]: [number, number]): Area => [
    Math.min(x, u),
    Math.min(y, v),
    Math.max(x, u),
    Math.max(y, v),
  ];
  return (
    <div
      className="pointer-events-auto absolute inset-0 cursor-crosshair touch-none"
      data-testid={`mark-${of === "itsAreas" ? "reference" : "picture"}`}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = place(e);
      }}
      onPointerMove={(e) => from.current && !points && setDrawn(area(from.current, place(e)))}
      onPointerUp={(e) => {
        const begun = from.current;
        from.current = null;
        setDrawn(null);
        if (points) {
          void addPoint(place(e));
          return;
        }
        const made = begun && area(begun, place(e));
        if (made && made[2] - made[0] > 0.005 && made[3] - made[1] > 0.005) addArea(of, made);
      }}
    >
      {drawn && <Frame area={drawn} />}
    </div>
  );
}

const Frame = ({ area, children }: { area: Area; children?: ReactNode }) => (
  <i
    className="pointer-events-none absolute border border-white text-fine text-white not-italic outline-1 outline-black/60"
    style={{
      left: `${area[0] * 100}%`,
      top: `${area[1] * 100}%`,
      width: `${(area[2] - area[0]) * 100}%`,
      height: `${(area[3] - area[1]) * 100}%`,
    }}
  >
    {children && <span className="bg-black/60 px-1">{children}</span>}
  </i>
);

const Areas = ({ areas }: { areas: Area[] }) =>
  areas.map((a, n) => (
    <Frame key={n} area={a}>
      {n === 0 ? "key" : "fill"}
    </Frame>
  ));

/** The reference over the picture: as a corner print, or up to a line. */
export function ReferenceOverlay() {
  const reference = useLookPart("reference");
  const { lies, wipe, marking, myAreas } = useReference();
  if (!reference) return null;
  return (
    <>
      {lies === "wipe" && (
        <>
          <img
            src={pictureOf(reference)}
            alt="The reference"
            data-testid="reference-wipe"
            className="absolute inset-0 h-full w-full object-cover"
            style={{ clipPath: `inset(0 ${(1 - wipe) * 100}% 0 0)` }}
          />
          <WipeLine
            label="Wipe between the reference and the picture"
            share={wipe}
            onMove={(wipe) => set({ wipe })}
          />
        </>
      )}
      {lies === "corner" && (
        <button
          className="pointer-events-auto absolute bottom-2 left-2 w-[24%] outline-1 outline-white/80"
          aria-label="Reference beside the picture"
          onClick={() => set({ lies: "beside" })}
        >
          <img
            src={pictureOf(reference)}
            alt="The reference"
            data-testid="reference-corner"
            onError={() => say(new Error("The reference of this look is no longer on the shelf."))}
          />
        </button>
      )}
      {lies === "beside" && <Areas areas={myAreas} />}
      {marking && <Catcher of="myAreas" points={false} />}
    </>
  );
}

/** The reference at the left of the picture. */
export function ReferenceBeside({ width, aspect }: { width: string; aspect: number }) {
  const reference = useLookPart("reference");
  const { marking, edge, itsAreas } = useReference();
  const zoom = useZoom();
  if (!reference) return null;
  return (
    <div
      className="grid place-items-center overflow-hidden bg-black outline-1 outline-black/50"
      style={{ aspectRatio: aspect, width }}
    >
      <div className="relative max-h-full max-w-full" style={marking || edge ? {} : closeUp(zoom)}>
        <img
          src={pictureOf(reference)}
          alt="The reference"
          data-testid="reference-beside"
          className="block max-h-full max-w-full"
          style={{ maxHeight: `calc(${width} / ${aspect})` }}
        />
        <Areas areas={itsAreas} />
        {edge?.map(([x, y], n) => (
          <i
            key={n}
            className="absolute h-[9px] w-[9px] -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-sun-on-mount bg-black/40"
            style={{ left: `${x * 100}%`, top: `${y * 100}%` }}
          />
        ))}
        {(marking || edge) && <Catcher of="itsAreas" points={edge !== null} />}
      </div>
    </div>
  );
}
