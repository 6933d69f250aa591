import { useState } from "react";
import type { PartGrade } from "../api/types";
import { editLook, hold, release, set, useStudio } from "../state/studio";
import { Amount } from "./Amount";
import { plus, share, readShare, type FinishState } from "./FinishLine";
import { Section } from "./Section";

const LINES = [
  ["stops", "Brightness", -3, 3, 0.05, 0, plus(2, " EV")],
  ["contrast", "Contrast", 0.4, 2, 0.01, 1, (v: number) => v.toFixed(2)],
  ["saturation", "Saturation", 0, 2, 0.01, 1, share],
  ["warm", "Warm", -1, 1, 0.01, 0, plus(2)],
  ["soft", "Soft edge", 0, 1, 0.01, 0, share],
] as const;

/** Grades of single parts or materials: calm a neighbour, lift a pot. */
export function PartGrades({ parts }: { parts: FinishState["parts"] }) {
  const picking = useStudio((s) => s.picking);
  const [open, setOpen] = useState<number | null>(0);
  const save = (rows: PartGrade[], label: string) =>
    void editLook({ finish: { parts: rows } } as never, label);
  const put = (i: number, patch: Partial<PartGrade>) =>
    parts.map((p, k) => (k === i ? { ...p, ...patch } : p));
  return (
    <Section title="Single parts" aside={parts.length > 0 ? `${parts.length}` : ""}>
      <ul aria-label="Graded parts">
        {parts.map((p, i) => (
          <li key={`${p.of}${p.what}`} className="mb-1">
            <div className="flex justify-between gap-2">
              <button
                className={`min-w-0 flex-1 truncate text-left ${open === i ? "font-[650]" : ""}`}
                aria-expanded={open === i}
                onClick={() => setOpen(open === i ? null : i)}
              >
                {p.what}
              </button>
              <span className="text-[11.5px] text-ink-2">{p.of}</span>
              <button
                className="quiet text-[11.5px] underline"
                aria-label={`Remove the grade of ${p.what}`}
                onClick={() =>
                  save(
                    parts.filter((_, k) => k !== i),
                    `Ungrade ${p.what}`,
                  )
                }
              >
                remove
              </button>
            </div>
            {open === i &&
              LINES.map(([key, label, min, max, step, normal, write]) => (
                <Amount
                  key={key}
                  label={label}
                  value={p[key]}
                  min={min}
                  max={max}
                  step={step}
                  normal={normal}
                  write={write}
                  {...(write === share ? { read: readShare } : {})}
                  onHold={(v) => hold({ look: { finish: { parts: put(i, { [key]: v }) } } }, false)}
                  onRelease={() => void release(`${label} of ${p.what}`)}
                />
              ))}
          </li>
        ))}
      </ul>
      <div className="grid grid-cols-2 gap-1">
        <button
          className="button"
          aria-pressed={picking === "grade part"}
          onClick={() => set({ picking: "grade part", placing: null })}
        >
          Pick a part
        </button>
        <button
          className="button"
          aria-pressed={picking === "grade material"}
          onClick={() => set({ picking: "grade material", placing: null })}
        >
          Pick a material
        </button>
      </div>
      {parts.length === 0 && (
        <p className="mt-1 text-ink-2">
          Pick something in the picture and grade it alone: darker, warmer, quieter.
        </p>
      )}
    </Section>
  );
}
