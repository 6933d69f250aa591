import { useState } from "react";
import { Select } from "../ui/Select";

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
      <Select
        className="flex-1"
        label="Pixels per inch"
        value={dpi ? String(dpi) : ""}
        options={[
          { value: "", label: "on screen only" },
          ...[96, 150, 200, 300].map((d) => ({ value: String(d), label: `${d} dpi` })),
        ]}
        onPick={(d) => p.onChange(p.width, d ? Number(d) : null)}
      />
      {dpi && (
        <>
          <input
            className="entry w-[58px] text-right"
            aria-label="Width of the print in cm"
            value={typed ?? cm.toFixed(1)}
            onChange={(e) => setTyped(e.target.value)}
            onBlur={take}
          />
          <span className="text-ink-2">cm</span>
        </>
      )}
    </div>
  );
}
