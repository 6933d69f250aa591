import type { ReactNode } from "react";

/** A line over the picture at a share of its width; dragged, or moved by the arrows. */
export function WipeLine(p: {
  label: string;
  share: number;
  onMove: (share: number) => void;
  children?: ReactNode;
}) {
  const move = (share: number) => p.onMove(Math.min(Math.max(share, 0), 1));
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={p.label}
      aria-valuenow={Math.round(p.share * 100)}
      className="pointer-events-auto absolute inset-y-0 w-[11px] -translate-x-1/2 cursor-ew-resize touch-none"
      style={{ left: `${p.share * 100}%` }}
      onKeyDown={(e) => {
        const way = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
        if (way) move(p.share + way * 0.02);
      }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => {
        if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
        const box = e.currentTarget.parentElement?.getBoundingClientRect();
        if (box) move((e.clientX - box.left) / box.width);
      }}
    >
      <i className="mx-auto block h-full w-[1.5px] bg-white mix-blend-difference" />
      {p.children}
    </div>
  );
}
