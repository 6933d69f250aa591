import { useHunt } from "../state/hunt";
import { useStudio } from "../state/studio";
import type { View } from "../api/types";
import { Guides } from "./Guides";
import { ProofOverlay } from "./Proofs";
import { amount } from "./words";

/** What is drawn over the picture: guides, pinned readings, the patch aimed at, a proof. */
export function Overlay({ view }: { view: View }) {
  const readings = useStudio((s) => s.readings);
  const patch = useHunt((s) => s.patch);
  return (
    <div
      className="pointer-events-none absolute overflow-hidden"
      style={{ aspectRatio: view.aspect, width: `min(100cqw, 100cqh * ${view.aspect})` }}
    >
      <ProofOverlay />
      <Guides view={view} />
      {readings.map((r, i) => (
        <b
          key={i}
          className="absolute -translate-x-1/2 -translate-y-1/2 rounded-full border border-white bg-black/60 px-[5px] text-[10.5px] leading-[15px] text-white"
          style={{ left: `${r.x * 100}%`, top: `${r.y * 100}%` }}
        >
          {i + 1}
        </b>
      ))}
      {patch && (
        <i
          className="absolute h-[13px] w-[13px] -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-sun-on-mount bg-black/40"
          style={{ left: `${patch[0] * 100}%`, top: `${patch[1] * 100}%` }}
        />
      )}
    </div>
  );
}

/** Legend of the false colours, below the picture. */
export function Legend() {
  const legend = useStudio((s) => s.frame?.legend);
  const on = useStudio((s) => s.reading === "luminance");
  if (!on || !legend?.length) return null;
  return (
    <div
      className="absolute inset-x-6 bottom-[2px] flex text-[10px] leading-[13px]"
      role="img"
      aria-label="Legend: luminance in cd/m² and stops from middle grey"
      data-testid="legend"
    >
      {legend.map((b) => (
        <span key={b.stops} className="flex-1 text-center">
          <i className="block h-[7px]" style={{ background: b.colour }} />
          {amount(b.luminance)}
          {b.stops === 0 ? " grey" : ""}
        </span>
      ))}
    </div>
  );
}
