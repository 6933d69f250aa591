import { useHands } from "../state/hands";
import { useHunt } from "../state/hunt";
import { set, useStudio } from "../state/store";
import type { Reading, View } from "../api/types";
import { Guides } from "./Guides";
import { useOpenings } from "./Openings";
import { ProofOverlay } from "./Proofs";
import { ReferenceOverlay } from "./Reference";
import { WipeLine } from "./WipeLine";
import { amount, lux, signed } from "./words";

/** What is drawn over the picture: guides, pinned readings, the patch aimed at, a proof. */
export function Overlay({ view }: { view: View }) {
  const readings = useStudio((s) => s.readings);
  const metering = useStudio((s) => s.metering);
  const under = useStudio((s) => s.under);
  const patch = useHunt((s) => s.patch);
  const framed = useStudio((s) => s.framed);
  const split = useStudio((s) => s.split);
  return (
    <div className="pointer-events-none absolute inset-0 overflow-hidden">
      <ReferenceOverlay />
      <ProofOverlay />
      {split !== null && (
        <WipeLine
          label="Wipe between raw and denoised"
          share={split}
          onMove={(share) => set({ split: share })}
        >
          <span className="absolute top-2 left-1/2 flex -translate-x-1/2 gap-4 bg-black/60 px-2 text-fine leading-[16px] whitespace-nowrap text-white">
            <span>raw</span>
            <span>denoised</span>
          </span>
        </WipeLine>
      )}
      <Guides view={view} />
      {readings.map((r, i) => (
        <b
          key={i}
          className="mark absolute -translate-x-1/2 -translate-y-1/2 rounded-full border border-white bg-black/60 px-[5px] text-fine leading-[15px] text-white"
          style={{ left: `${r.x * 100}%`, top: `${r.y * 100}%` }}
        >
          {i + 1}
        </b>
      ))}
      {metering && under && <Under reading={under} />}
      {framed && <Frame box={framed} />}
      <Region />
      <OpeningOutlines />
      {patch && (
        <i
          className="mark absolute h-[13px] w-[13px] -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-sun-on-mount bg-black/40"
          style={{ left: `${patch[0] * 100}%`, top: `${patch[1] * 100}%` }}
        />
      )}
    </div>
  );
}

/** Openings light is drawn through, with the way it comes in. */
function OpeningOutlines() {
  const shown = useStudio((s) => s.openingsShown);
  return shown ? <Outlines /> : null;
}

function Outlines() {
  const edits = useStudio((s) => s.project?.models[0]?.settings.edits);
  const held = useStudio((s) => s.held?.model?.edits.openings);
  const found = useOpenings();
  const marks = useHands((s) => s.marks);
  const byHand = new Set(edits?.added_openings.map((o) => o.name));
  const own = marks.filter((m) => m.kind === "opening" && byHand.has(m.of));
  return (
    <svg
      className="absolute inset-0 h-full w-full"
      viewBox="0 0 1 1"
      preserveAspectRatio="none"
      data-testid="opening-outlines"
    >
      {[
        ...(found.data ?? []).filter(
          (o) => (held?.[o.name] ?? edits?.openings[o.name])?.on ?? true,
        ),
        ...own,
      ]
        .filter((o) => o.corners)
        .map((o) => (
          <polygon
            key={o.name}
            points={o.corners?.map((c) => c.join(",")).join(" ")}
            fill="var(--blue)"
            fillOpacity="0.1"
            stroke="var(--blue)"
            strokeWidth="1.5"
            vectorEffect="non-scaling-stroke"
          />
        ))}
    </svg>
  );
}

/** What is refined first, with an end to it. */
function Region() {
  const region = useStudio((s) => s.region);
  const chosen = useStudio((s) => s.picking !== "region");
  if (!region) return null;
  const [left, top, right, bottom] = region.map((v) => `${v * 100}%`);
  return (
    <div
      className="absolute border border-dashed border-white outline-1 outline-black/60"
      data-testid="region"
      style={{ left, top, width: `calc(${right} - ${left})`, height: `calc(${bottom} - ${top})` }}
    >
      {chosen && (
        <button
          className="mark pointer-events-auto absolute top-0 right-0 origin-top-right bg-black/60 px-[5px] text-small leading-[16px] text-white"
          onClick={() => set({ region: null })}
        >
          first here · end
        </button>
      )}
    </div>
  );
}

/** Corners around a place of the picture. */
function Frame({ box: [left, top, right, bottom] }: { box: [number, number, number, number] }) {
  const share = (v: number) => `${v * 100}%`;
  return (
    <svg
      className="absolute overflow-visible"
      data-testid="framed"
      style={{
        left: share(left),
        top: share(top),
        width: share(right - left),
        height: share(bottom - top),
      }}
      viewBox="0 0 100 100"
      preserveAspectRatio="none"
      fill="none"
    >
      {["rgb(0 0 0 / 0.6)", "var(--sun-on-mount)"].map((colour, i) => (
        <path
          key={colour}
          d="M0 25V0H25M75 0H100V25M100 75V100H75M25 100H0V75"
          stroke={colour}
          strokeWidth={i === 0 ? 4 : 2}
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </svg>
  );
}

/** The reading under the cursor, beside it. */
function Under({ reading: r }: { reading: Reading }) {
  const project = useStudio((s) => s.project);
  const names: Record<string, string> = { sun: "Sun", sky: "Sky" };
  for (const s of project?.sources ?? []) names[s.id] = s.name;
  const most = Object.entries(r.shares)
    .sort((a, b) => b[1] - a[1])
    .slice(0, 2)
    .filter(([, share]) => share > 0.01)
    .map(([id, share]) => `${names[id] ?? id} ${(share * 100).toFixed(0)} %`);
  const left = r.x > 0.7;
  return (
    <p
      className="mark absolute origin-top-left rounded-[2px] bg-black/75 px-2 py-[2px] text-small whitespace-nowrap text-white"
      data-testid="under"
      style={{
        left: `${r.x * 100}%`,
        top: `${r.y * 100}%`,
        transform: `translate(${left ? "calc(-100% - 12px)" : "12px"}, ${r.y > 0.8 ? "-120%" : "20%"})`,
      }}
    >
      {amount(r.luminance)} cd/m² · {signed(r.stops)} EV{r.lux !== null && ` · ${lux(r.lux)}`}
      <br />
      {most.join(" · ")}
    </p>
  );
}

/** Legend of the false colours, below the picture. */
export function Legend() {
  const frame = useStudio((s) => s.frame);
  const reading = useStudio((s) => s.reading);
  const steps =
    reading === "luminance"
      ? frame?.legend.map((b) => ({
          colour: b.colour,
          text: `${amount(b.luminance)}${b.stops === 0 ? " grey" : ""}`,
        }))
      : reading === "noise"
        ? frame?.noise_legend.map((b) => ({
            colour: b.colour,
            text: b.steps === 1 ? "just visible" : `${b.steps} ×`,
          }))
        : [];
  if (!steps?.length) return null;
  return (
    <div
      className="absolute inset-x-3 bottom-[1px] flex text-fine leading-[13px]"
      role="img"
      aria-label={
        reading === "noise"
          ? "Legend: noise as it is seen, in steps that are just noticed"
          : "Legend: luminance in cd/m² and stops from middle grey"
      }
      data-testid="legend"
    >
      {steps.map((b) => (
        <span key={b.text} className="flex-1 text-center">
          <i className="block h-[7px]" style={{ background: b.colour }} />
          {b.text}
        </span>
      ))}
    </div>
  );
}
