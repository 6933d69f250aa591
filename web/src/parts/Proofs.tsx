import { Scroll } from "../ui/Scroll";
import { useEffect } from "react";
import {
  chooseProof,
  keepProof,
  loadProofs,
  noteProof,
  putBackProof,
  removeProof,
  restoreProof,
  set,
  showStops,
  useProofs,
} from "../state/proofs";
import { set as setStudio, useStudio } from "../state/store";
import { closeUp, useZoom } from "../state/zoom";
import { Section } from "../ui/Section";
import { WipeLine } from "./WipeLine";
import { Tip } from "../ui/Tip";

/** Time each of two pictures is shown for, in ms: long enough to see one, short enough to compare. */
const FLICKER = 600;

/** The proof and the picture in turn. */
function useFlicker(on: boolean) {
  useEffect(() => {
    if (!on) return;
    const turn = setInterval(() => set((s) => ({ held: !s.held })), FLICKER);
    return () => {
      clearInterval(turn);
      set({ held: false });
    };
  }, [on]);
}

/** Kept pictures: compare with the present one, see what differs, go back. */
export function Proofs() {
  const project = useStudio((s) => s.project?.id);
  const view = useStudio((s) => s.viewId);
  const { list, chosen, differences, stops, beside, aside, flicker } = useProofs();
  useFlicker(flicker && chosen !== null);
  useEffect(() => {
    if (project) void loadProofs().catch(() => undefined);
  }, [project]);
  const proof = list.find((p) => p.id === chosen);
  return (
    <Section
      title="Proofs"
      aside={
        <span className="flex gap-3">
          {list.length > 1 && (
            <button className="quiet underline" onClick={() => setStudio({ mounted: "proofs" })}>
              Open large
            </button>
          )}
          <button className="quiet underline" onClick={() => void keepProof()}>
            Keep this picture <kbd>P</kbd>
          </button>
        </span>
      }
    >
      {list.length === 0 && (
        <p className="text-ink-2">Keep a picture before you change it; hold X to compare.</p>
      )}
      <div className="grid grid-cols-3 gap-1">
        {list.map((p) => (
          <Tip key={p.id} text={p.name}>
            <button
              aria-pressed={p.id === chosen}
              onClick={() => void chooseProof(p.id === chosen ? null : p.id)}
            >
              <img
                src={`/api/files/${p.shown}?show=true`}
                alt={p.described || p.name}
                className={`aspect-video w-full object-cover ${p.id === chosen ? "outline-2 outline-blue" : ""}`}
              />
            </button>
          </Tip>
        ))}
      </div>
      {aside && (
        <p className="mt-1 text-ink-2">
          The proof is removed.{" "}
          <button className="underline" onClick={() => void putBackProof()}>
            Put back
          </button>
        </p>
      )}
      {proof && (
        <div className="mt-2" data-testid="proof">
          <p className="font-[600]">{proof.name}</p>
          <input
            key={proof.id}
            className="entry mt-1 w-full"
            placeholder="Note"
            aria-label="Note on the proof"
            defaultValue={proof.note}
            onBlur={(e) =>
              e.target.value !== proof.note && void noteProof(proof.id, e.target.value)
            }
          />
          <Scroll className="mt-1 max-h-[110px]">
            <ul className="text-ink-2">
              {differences.map((d) => (
                <li key={d}>{d}</li>
              ))}
              {differences.length === 0 && <li>Nothing differs.</li>}
            </ul>
          </Scroll>
          <div className="mt-1 grid grid-cols-2 gap-1">
            <button
              className="button"
              aria-pressed={beside}
              onClick={() => set({ beside: !beside, stops: null })}
            >
              Side by side
            </button>
            <button className="button" onClick={() => void restoreProof(proof.id)}>
              Go back
            </button>
            <Tip
              text={
                proof.view === view
                  ? "Difference of light: warm is brighter now, blue darker"
                  : "This proof is of another view; show that view to compare"
              }
            >
              <button
                className="button"
                aria-pressed={stops !== null}
                disabled={proof.view !== view}
                onClick={() => (stops ? set({ stops: null }) : showStops(proof.id))}
              >
                In stops
              </button>
            </Tip>
            <button
              className="button"
              aria-pressed={flicker}
              onClick={() => set({ flicker: !flicker })}
            >
              Flicker
            </button>
            <button className="button" onClick={() => void removeProof(proof.id)}>
              Remove
            </button>
          </div>
          <p className="mt-1 text-ink-2">
            {beside ? "The proof stands on the left." : "Drag the line over the picture to wipe."}{" "}
            Hold X for the proof alone.
          </p>
        </div>
      )}
    </Section>
  );
}

/** The chosen proof at the left of the picture, of the same size. */
export function ProofBeside({ width, aspect }: { width: string; aspect: number }) {
  const { list, chosen } = useProofs();
  const zoom = useZoom();
  const proof = list.find((p) => p.id === chosen);
  if (!proof) return null;
  return (
    <div
      className="overflow-hidden bg-black outline-1 outline-black/50"
      style={{ aspectRatio: aspect, width }}
    >
      <img
        src={`/api/files/${proof.shown}?show=true`}
        alt={proof.described || proof.name}
        data-testid="proof-beside"
        className="h-full w-full object-contain"
        style={closeUp(zoom)}
      />
    </div>
  );
}

/** The proof over the present picture, up to a line that can be dragged. */
export function ProofOverlay() {
  const { list, chosen, wipe, held, stops, beside } = useProofs();
  const proof = list.find((p) => p.id === chosen) ?? (held ? list[0] : undefined);
  if (!proof) return null;
  const share = held || stops ? 1 : beside ? null : wipe;
  if (share === null) return null;
  return (
    <>
      <img
        src={stops && !held ? stops : `/api/files/${proof.shown}?show=true`}
        alt={stops ? "Difference in stops: warm is brighter now, blue darker" : proof.name}
        data-testid="proof-overlay"
        className="absolute inset-0 h-full w-full"
        style={{ clipPath: `inset(0 ${(1 - share) * 100}% 0 0)` }}
      />
      {!held && !stops && (
        <WipeLine
          label="Wipe between the proof and the picture"
          share={share}
          onMove={(wipe) => set({ wipe })}
        />
      )}
    </>
  );
}
