import { type ReactNode, useEffect, useRef, useState } from "react";
import { aimClick, useHunt } from "../state/hunt";
import { pickFor } from "../state/pickFor";
import { look, settleNow, settleSoon, walk } from "../state/fly";
import { askLanding, read } from "../state/asking";
import { carry, feelSun, giveUp, letGo, takeSun, useHands } from "../state/hands";
import { useVocabulary } from "../state/vocabulary";
import { drawOn, tryAgain } from "../state/picture";
import { useProofs } from "../state/proofs";
import { closeUp, panBy, useZoom, zoomAt, zoomOut } from "../state/zoom";
import { importModel, placeFixture, useGone } from "../state/edits";
import { useLookPart, useView, viewRow, showView } from "../state/look";
import { useReference } from "../state/reference";
import { get, set, useStudio } from "../state/store";
import { Mounted } from "./Mounted";
import { FirstStep } from "./FirstStep";
import { Hands } from "./Hands";
import { Legend, Overlay } from "./Overlay";
import { LightBrush } from "./LightBrush";
import { PlantHand } from "./PlantHand";
import { ProofBeside } from "./Proofs";
import { ReferenceBeside } from "./Reference";
import { FileButton } from "../ui/FileButton";
import { Tip } from "../ui/Tip";

/** Time between two readings under the cursor, in ms. */
const GLANCE_EVERY = 220;
/** Readings pinned at a time; the oldest makes room. */
const MOST_READINGS = 8;

const PICKING: Record<string, string> = {
  focus: "Click what should be sharp. Esc ends.",
  neutral: "Click something that should be neutral grey. Esc ends.",
  "metered area": "Click what the exposure should be metered on. Esc ends.",
  part: "Click a part, here or on the plan, to find it in the list. Esc ends.",
  room: "Click in the room, here or on the plan. Esc ends.",
  "move part": "Click the part to move, here or on the plan. Esc ends.",
  "copy part": "Click the part to copy, here or on the plan. Esc ends.",
  "grade part": "Click the part to grade by itself. Esc ends.",
  "grade material": "Click something of the material to grade. Esc ends.",
  aim: "Click what it should shine at. Esc ends.",
  region: "Drag over what should clear first. Esc ends.",
  plant: "Draw where plants should grow, here or on the plan. Esc ends.",
  opening: "Click two opposite corners of the opening, on its frame. Esc ends.",
};

const saying = (what: string) =>
  PICKING[what] ?? `Click where the ${what.slice(4)} should stand. Esc ends.`;

/** The mounted picture: always there, never covered. Clicking it acts on what is seen. */
export function Picture() {
  const there = useStudio((s) => s.frame !== null);
  const empty = useStudio((s) => s.project !== null && s.project.models.length === 0);
  const placing = useStudio((s) => s.placing);
  const view = useView();
  const looked = useRef(0);
  const canvas = useRef<HTMLCanvasElement>(null);
  const metering = useStudio((s) => s.metering);
  const aiming = useHunt((s) => s.aiming);
  const picking = useStudio((s) => s.picking);
  const flying = useStudio((s) => s.flying);
  const alone = useStudio((s) => s.alone);
  const last = useStudio((s) => s.last);
  const [inside, setInside] = useState(false);
  const grip = useRef<{ x: number; y: number } | null>(null);
  const busy = placing ?? aiming ?? picking ?? metering;
  const zoom = useZoom();
  // In the stage of daylight a patch of sunlight can be taken hold of.
  const feels = useStudio((s) => s.stage === "Daylight" && !s.flying) && !busy && !empty;
  const sunny = useHands((s) => s.sunny) && feels;
  const patch = useHands((s) => s.holding?.what === "patch");
  const place = (e: React.MouseEvent): [number, number] => {
    const box = e.currentTarget.getBoundingClientRect();
    return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height];
  };
  const turn = (e: React.PointerEvent) => {
    if (!grip.current) return;
    const box = e.currentTarget.getBoundingClientRect();
    if (picking === "region") {
      const [x, y] = place(e);
      const x0 = (grip.current.x - box.left) / box.width;
      const y0 = (grip.current.y - box.top) / box.height;
      const low = [Math.min(x, x0), Math.min(y, y0)].map((v) => Math.max(v, 0));
      const high = [Math.max(x, x0), Math.max(y, y0)].map((v) => Math.min(v, 1));
      set({ region: [...low, ...high] as [number, number, number, number] });
      return;
    }
    if (!flying) {
      panBy((e.clientX - grip.current.x) / box.width, (e.clientY - grip.current.y) / box.height);
      grip.current = { x: e.clientX, y: e.clientY };
      return;
    }
    look((e.clientX - grip.current.x) / box.width, (e.clientY - grip.current.y) / box.width);
    grip.current = { x: e.clientX, y: e.clientY };
  };
  const aspect = view?.aspect ?? 16 / 9;
  const proof = useProofs((s) => s.beside && s.chosen !== null);
  const towards = useLookPart("reference") != null;
  const reference = useReference((s) => s.lies === "beside") && towards && !proof;
  const width = `min(${proof || reference ? "50cqw - 6px" : "100cqw"}, 100cqh * ${aspect})`;
  const glance = (e: React.PointerEvent) => {
    const now = performance.now();
    if (now - looked.current < GLANCE_EVERY) return;
    looked.current = now;
    const box = e.currentTarget.getBoundingClientRect();
    const at = [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height] as const;
    if (feels) void feelSun(...at).catch(() => undefined);
    else void read(...at).then((under) => get().metering && set({ under }));
  };
  const click = async (e: React.MouseEvent) => {
    if (!busy || !canvas.current || picking === "region") return;
    const [x, y] = place(e);
    if (picking) {
      await pickFor(picking, x, y);
      return;
    }
    if (aiming) {
      await aimClick(x, y);
      return;
    }
    if (!placing) {
      const reading = await read(x, y);
      if (reading) set((s) => ({ readings: [...s.readings, reading].slice(-MOST_READINGS) }));
      return;
    }
    const { off_m, snap } = get().landing;
    const landed = await askLanding([x, y], placing, off_m, snap && !e.altKey);
    if (!landed.hit) {
      set({ problem: "There is no surface at this point; click on a wall, ceiling or floor." });
      return;
    }
    await placeFixture(placing, landed);
  };
  return (
    <div
      className={`relative flex min-h-0 flex-1 flex-col text-on-mount ${alone ? "" : "px-3 pb-[10px]"}`}
    >
      {alone ? (
        <AloneLine />
      ) : (
        <div className="-mx-3 mb-[9px] flex min-h-[28px] items-center justify-between gap-4 bg-mount-2 px-3">
          <Views />
          <span className="flex min-w-0 items-baseline gap-4 overflow-hidden">
            <Status />
            <Tip text="The picture as large as the window; A again brings the page back">
              <button
                className="whitespace-nowrap text-on-mount-2 hover:text-on-mount"
                aria-label="Picture alone A"
                onClick={() => set({ alone: true })}
              >
                <span className="when-wide">Picture alone</span> <kbd>A</kbd>
              </button>
            </Tip>
          </span>
        </div>
      )}
      <div
        className="relative flex min-h-0 flex-1 items-center justify-center gap-3"
        style={{ containerType: "size" }}
      >
        {proof && <ProofBeside width={width} aspect={aspect} />}
        {reference && <ReferenceBeside width={width} aspect={aspect} />}
        <div
          className="relative overflow-hidden"
          style={{ aspectRatio: aspect, width }}
          onPointerEnter={() => setInside(true)}
          onPointerLeave={() => setInside(false)}
        >
          <div className="h-full w-full" style={closeUp(zoom)}>
            <canvas
              ref={(element) => {
                canvas.current = element;
                drawOn(element);
              }}
              data-testid="picture"
              aria-label="Picture"
              aria-describedby="described"
              role="img"
              onClick={(e) => void click(e)}
              onPointerDown={(e) => {
                const close = zoom.scale > 1;
                if (sunny) {
                  e.currentTarget.setPointerCapture(e.pointerId);
                  void takeSun(...place(e));
                  return;
                }
                if (picking !== "region" && (busy || !(flying || close))) return;
                e.currentTarget.setPointerCapture(e.pointerId);
                grip.current = { x: e.clientX, y: e.clientY };
              }}
              onPointerMove={(e) => {
                turn(e);
                if (patch) carry(...place(e), e);
                else if (metering || feels) glance(e);
              }}
              onPointerCancel={giveUp}
              onPointerUp={() => {
                if (sunny) void letGo();
                if (grip.current && flying) settleNow();
                if (grip.current && picking === "region") set({ picking: null });
                grip.current = null;
              }}
              onWheel={(e) => {
                if (!flying) {
                  zoomAt(...place(e), e.deltaY < 0 ? 1.25 : 0.8);
                  return;
                }
                walk(-Math.sign(e.deltaY) * 0.25, 0, 0);
                settleSoon();
              }}
              onDoubleClick={() => !busy && zoomOut()}
              onPointerLeave={() => {
                set({ under: null });
                if (!patch) useHands.setState({ sunny: false });
              }}
              className={`block h-full w-full ${busy ? "cursor-crosshair" : patch ? "cursor-grabbing" : sunny ? "cursor-grab" : flying ? "cursor-move" : ""} ${there && !empty ? "" : "opacity-0"} bg-black outline-1 outline-black/50`}
            />
            {last && (
              <img
                src={last.url}
                alt="This view as it was last seen"
                data-testid="last-picture"
                className="pointer-events-none absolute inset-0 h-full w-full"
              />
            )}
            <Described />
            {view && !empty && <Overlay view={view} />}
            {!empty && <Hands inside={inside} />}
            {!empty && <LightBrush aspect={aspect} />}
            {!empty && picking === "plant" && <PlantHand />}
          </div>
          {zoom.scale > 1 && (
            <button
              className="absolute right-2 bottom-2 bg-black/60 px-2 text-white"
              onClick={zoomOut}
            >
              {zoom.scale.toFixed(1)}× · whole
            </button>
          )}
        </div>
        {empty && <Empty />}
        {!alone && <FirstStep step="proof" className="absolute top-[10px] right-[10px]" />}
      </div>
      <Legend />
      <Mounted />
      {flying && (
        <Hint>
          Drag to look around, arrows or wheel to walk, Page Up and Down to rise. Esc ends.
        </Hint>
      )}
      {picking && <Hint>{saying(picking)}</Hint>}
      {patch && (
        <Hint>The sun follows; with Shift along its path of the day. Esc puts it back.</Hint>
      )}
      {aiming && (
        <Hint>
          {aiming === "patch"
            ? "Click where the sun should fall. Esc ends."
            : "Click the window it should come through. Esc ends."}
        </Hint>
      )}
      {placing && (
        <Hint>
          Click a surface in the picture, or a place on the plan: the{" "}
          {placing === "photometric" ? "luminaire" : placing} lands there. Esc ends.
        </Hint>
      )}
    </div>
  );
}

/** The light of the picture in words, for those who do not see it. */
const Described = () => (
  <p id="described" className="sr-only">
    {useStudio((s) => s.frame?.described)}
  </p>
);

/** What the next click does. It lies over the picture, and a click on it is one in the picture. */
const Hint = ({ children }: { children: ReactNode }) => (
  <p className="pointer-events-none absolute bottom-5 left-1/2 -translate-x-1/2 rounded-[2px] bg-mount-3 px-3 py-1 whitespace-nowrap">
    {children}
  </p>
);

/** How long the way back is told when the picture begins to stand alone, in ms. */
const TOLD_FOR = 4000;

/** Over the picture that stands alone: what went wrong, and for a while how to come back. */
function AloneLine() {
  const wrong = useStudio((s) => s.failure !== null);
  const [told, setTold] = useState(true);
  useEffect(() => {
    const end = setTimeout(() => setTold(false), TOLD_FOR);
    return () => clearTimeout(end);
  }, []);
  return (
    <div className="pointer-events-none absolute inset-x-0 top-3 z-10 flex justify-center">
      {wrong ? (
        <span className="pointer-events-auto rounded-[2px] bg-black/70 px-3 py-1">
          <Status />
        </span>
      ) : (
        <button
          className={`rounded-[2px] bg-black/60 px-3 py-1 transition-opacity duration-700 ${told ? "pointer-events-auto" : "opacity-0"} focus-visible:opacity-100`}
          onClick={() => set({ alone: false })}
        >
          Back to the page <kbd>A</kbd>
        </button>
      )}
    </div>
  );
}

function Views() {
  const project = useStudio((s) => s.project);
  const current = useStudio(viewRow);
  const view = useView();
  return (
    <div
      className="flex min-w-0 items-center gap-4 overflow-x-auto"
      role="group"
      aria-label="Views"
    >
      {project?.views.map((v) => (
        <button
          key={v.id}
          aria-pressed={v.id === current?.id}
          className={`whitespace-nowrap ${v.id === current?.id ? "font-[650]" : "text-on-mount-2 hover:text-on-mount"}`}
          onClick={() => showView(v.id)}
        >
          {v.name}
        </button>
      ))}
      {view && (
        <span className="whitespace-nowrap text-on-mount-2">
          {view.focal_length_mm.toFixed(0)} mm
        </span>
      )}
    </div>
  );
}

function Status() {
  const frame = useStudio((s) => s.frame);
  const note = useStudio((s) => s.note);
  const stop = useStudio((s) => s.stop);
  const paused = useStudio((s) => s.paused);
  const failure = useStudio((s) => s.failure);
  const last = useStudio((s) => s.last);
  const gone = useGone();
  if (failure)
    return (
      <span
        role="alert"
        className="flex items-baseline gap-2 text-right leading-[13px] text-sun-on-mount"
      >
        {failure.text} This is the last good picture.
        <button className="underline" onClick={tryAgain}>
          Try again
        </button>
      </span>
    );
  if (stop) return <Working note={note} stop={stop} />;
  if (gone) return <span role="status">{gone}</span>;
  if (note) return <span role="status">{note}</span>;
  if (last)
    return (
      <span role="status" data-testid="status" className="min-w-0 truncate text-on-mount-2">
        last picture of this view · light is coming
      </span>
    );
  if (!frame || frame.empty) return null;
  const status = (
    <span role="status" data-testid="status" className="truncate">
      {frame.moving
        ? "direct light, while you move"
        : frame.passes === 0
          ? "first light"
          : `pass ${frame.passes}${frame.noise === null ? "" : ` · ${frame.grain} (${frame.noise.toFixed(1)})`}`}
      {!frame.moving &&
        frame.waiting > 0 &&
        ` · ${frame.waiting} ${frame.waiting > 1 ? "sources" : "source"} to come`}
      {` · ${frame.seconds.toFixed(0)} s`}
      {frame.left_s !== null &&
        frame.left_s > 1 &&
        !frame.settled &&
        ` · ${left(frame.left_s)} left`}
      {paused ? " · paused" : ""}
    </span>
  );
  if (!frame.doubt) return status;
  return (
    <span className="text-right leading-[13px]">
      <span role="note" className="text-sun-on-mount">
        {frame.doubt}
      </span>{" "}
      {status}
    </span>
  );
}

/** Seconds or minutes, as far as they can be known. */
const left = (seconds: number) =>
  seconds < 90 ? `${Math.ceil(seconds / 5) * 5} s` : `${Math.round(seconds / 60)} min`;

/** Work that takes its time: what it is, how long it has gone on, and an end to it. */
function Working({ note, stop }: { note: string; stop: () => void }) {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    const begun = performance.now();
    const clock = setInterval(() => setSeconds((performance.now() - begun) / 1000), 500);
    return () => clearInterval(clock);
  }, []);
  return (
    <span role="status" className="flex gap-3 whitespace-nowrap">
      {note || "Working …"} {seconds >= 1 && `${seconds.toFixed(0)} s`}
      <button className="underline" onClick={stop}>
        Stop
      </button>
    </span>
  );
}

function Empty() {
  const { buildings } = useVocabulary();
  const [over, setOver] = useState(false);
  const take = (file: File | undefined) => file && void importModel(file, "y");
  return (
    <div
      className={`absolute inset-0 grid place-items-center rounded-[3px] border border-dashed ${over ? "border-on-mount bg-mount-2" : "border-on-mount-2"}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        take(e.dataTransfer.files[0]);
      }}
    >
      <div className="max-w-[40ch] text-center">
        <p className="wide mb-2 text-large font-[650]">Bring in a building</p>
        <p className="mb-4 text-on-mount-2">
          Drop a file here: GLB, IFC, FBX, DAE, USD, 3DS, DXF, STL or PLY, or a zip with a model
          (also glTF or OBJ) and its pictures. Lengths are metres where the file does not tell.
        </p>
        <FileButton
          label="Building file"
          endings={buildings}
          className="rounded-[2px] border border-on-mount px-3 py-1 font-[550] hover:bg-mount-2"
          onFiles={([file]) => take(file)}
        >
          Choose a file …
        </FileButton>
      </div>
    </div>
  );
}
