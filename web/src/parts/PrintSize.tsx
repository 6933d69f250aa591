import { useState } from "react";

const CM_PER_INCH = 2.54;

/** Width on paper, tied to the width in pixels by the pixels per inch. */
export function PrintSize(p: {
  width: number;
  dpi: number | null;
  most: number;
  onChange: (width: number, dpi: number | null) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const { dpi } = p;
  const cm = dpi ? (p.width / dpi) * CM_PER_INCH : 0;
  const take = () => {
    const wanted = Number.parseFloat((typed ?? "").replace(",", "."));
    setTyped(null);
    if (!dpi || !(wanted > 0)) return;
    const pixels = Math.round(((wanted / CM_PER_INCH) * dpi) / 16) * 16;
    p.onChange(Math.min(Math.max(pixels, 320), p.most), dpi);
  };
  return (
    <div className="mt-1 flex items-center gap-2">
      <span className="w-[78px] text-ink-2">Print</span>
      <select
        className="entry flex-1"
        aria-label="Pixels per inch"
        value={dpi ?? ""}
        onChange={(e) => p.onChange(p.width, e.target.value ? Number(e.target.value) : null)}
      >
        <option value="">on screen only</option>
        {[96, 150, 200, 300].map((d) => (
          <option key={d} value={d}>
            {d} dpi
          </option>
        ))}
      </select>
      {dpi && (
        <>
          <input
            className="entry w-[58px] text-right"
            aria-label="Width of the print in cm"
            value={typed ?? cm.toFixed(1)}
            onChange={(e) => setTyped(e.target.value)}
            onBlur={take}
            onKeyDown={(e) => e.key === "Enter" && take()}
          />
          <span className="text-ink-2">cm</span>
        </>
      )}
    </div>
  );
}
