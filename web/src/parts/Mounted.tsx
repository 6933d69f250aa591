import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answer, api } from "../api/client";
import type { Sheet } from "../api/types";
import { takeFrom } from "../state/sheets";
import { chooseProof, useProofs } from "../state/proofs";
import { fit } from "../state/fit";
import { useView } from "../state/look";
import { set, useStudio } from "../state/store";

interface Cell {
  key: string;
  src: string | null;
  caption: string;
  take: () => void;
}

/** Pictures of a sheet in the mount, as large as it allows; the picture waits behind them. */
export function Mounted() {
  const mounted = useStudio((s) => s.mounted);
  if (!mounted) return null;
  return mounted === "proofs" ? <ProofsGrid /> : <SheetGrid id={mounted} />;
}

export const closeMounted = () => set({ mounted: null });

/** One asks once a second at most for what has been made meanwhile. */
export const useSheet = (id: string | null) =>
  useQuery({
    queryKey: ["sheet", id],
    queryFn: () =>
      answer(api.GET("/api/sheets/{sheet}", { params: { path: { sheet: id ?? "" } } })),
    enabled: id !== null,
    refetchInterval: (q) => (q.state.data && !q.state.data.running ? false : 700),
  });

/** Address of a picture of a sheet, another after each round; none before it is there. */
export const pictureOf = (sheet: string, p: Sheet["pictures"][number], n: number) =>
  p.round ? `/api/sheets/${sheet}/pictures/${n}?round=${p.round}` : null;

/** Share of the work on a sheet that is done: every round of every picture. */
export const shareDone = (s: Sheet) =>
  s.pictures.reduce((sum, p) => sum + p.round, 0) / Math.max(s.pictures.length * s.rounds, 1);

const refining = (s: Sheet) => (s.running && s.pictures.every((p) => p.round) ? ", refining" : "");

function SheetGrid({ id }: { id: string }) {
  const sheet = useSheet(id).data;
  const making = sheet?.running ?? true;
  useEffect(() => {
    set({ covered: making });
    return () => set({ covered: false });
  }, [making]);
  const ready = sheet?.pictures.filter((p) => p.round > 0).length ?? 0;
  const cells = sheet?.pictures.map((p, i) => ({
    key: `${i} ${p.caption}`,
    src: pictureOf(id, p, i),
    caption: p.caption,
    take: () => void takeFrom(p.take),
  }));
  return (
    <Grid
      title={sheet ? `${ready} of ${sheet.pictures.length} pictures${refining(sheet)}` : ""}
      hint={
        sheet?.pictures[0]?.take.name
          ? "Click one to make it a look."
          : "Click one to take what it shows."
      }
      cells={cells ?? []}
    />
  );
}

function ProofsGrid() {
  const list = useProofs((s) => s.list);
  const cells = list.map((p) => ({
    key: p.id,
    src: `/api/files/${p.shown}?show=true`,
    caption: p.name,
    take: () => void chooseProof(p.id),
  }));
  return <Grid title="Proofs" hint="Click one to compare with it." cells={cells} />;
}

function Grid({ title, hint, cells }: { title: string; hint: string; cells: Cell[] }) {
  const aspect = useView()?.aspect ?? 16 / 9;
  const place = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 900, height: 500 });
  useEffect(() => {
    const element = place.current;
    if (!element) return;
    const sized = new ResizeObserver(([entry]) => entry && setSize(entry.contentRect));
    sized.observe(element);
    return () => sized.disconnect();
  }, []);
  const { columns, width } = fit(cells.length, aspect, size.width, size.height);
  return (
    <section
      className="absolute inset-0 z-10 flex flex-col bg-mount px-3 pb-3"
      aria-label="Sheet of pictures"
      data-testid="mounted"
    >
      <div className="-mx-3 mb-[9px] flex min-h-[28px] items-center justify-between gap-4 bg-mount-2 px-3">
        <span className="font-[650]">{title}</span>
        <span className="flex items-baseline gap-4 text-on-mount-2">
          {hint}
          <button className="hover:text-on-mount" onClick={closeMounted}>
            Back to the picture <kbd>Esc</kbd>
          </button>
        </span>
      </div>
      <div ref={place} className="grid min-h-0 flex-1 place-content-center overflow-hidden">
        <div
          className="grid gap-[10px]"
          style={{ gridTemplateColumns: `repeat(${columns}, ${width}px)` }}
        >
          {cells.map((c) => (
            <button
              key={c.key}
              className="min-w-0 text-left hover:text-sun-on-mount disabled:opacity-60"
              disabled={!c.src}
              onClick={() => {
                c.take();
                closeMounted();
              }}
            >
              <span className="block bg-black/30" style={{ aspectRatio: aspect }}>
                {c.src && (
                  <img
                    src={c.src}
                    alt=""
                    className="h-full w-full object-contain outline-1 outline-black/50"
                  />
                )}
              </span>
              <span className="block truncate text-small leading-[20px]">{c.caption}</span>
            </button>
          ))}
        </div>
      </div>
    </section>
  );
}
