import { useState } from "react";
import type { PartGrade } from "../api/types";
import { gradeNamed } from "../state/pickFor";
import { editLook } from "../state/edits";
import { hold, release } from "../state/held";
import { set, useStudio } from "../state/store";
import { Amount } from "../ui/Amount";
import { useVocabulary } from "../state/vocabulary";
import { scale } from "./dial";
import type { FinishState } from "./FinishLine";
import { usePartList } from "./Parts";
import { Section } from "../ui/Section";
import { Select } from "../ui/Select";

/** The rows with one moved a place up: what is graded first is graded below the others. */
const earlier = (parts: PartGrade[], i: number) =>
  parts.map((p, k) => (k === i - 1 ? parts[i] : k === i ? parts[i - 1] : p) as PartGrade);

/** Grades of single parts or materials: calm a neighbour, lift a pot. */
export function PartGrades({ parts }: { parts: FinishState["parts"] }) {
  const picking = useStudio((s) => s.picking);
  const list = usePartList();
  const dials = useVocabulary().finish.parts ?? {};
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
                {p.name || p.what}
              </button>
              <span className="text-small text-ink-2">{p.of}</span>
              {i > 0 && (
                <button
                  className="quiet text-small underline"
                  aria-label={`Grade ${p.name || p.what} earlier`}
                  onClick={() => save(earlier(parts, i), `Order of ${p.name || p.what}`)}
                >
                  up
                </button>
              )}
              <button
                className="quiet text-small underline"
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
            {open === i && (
              <input
                className="entry my-1 w-full"
                aria-label={`Name for the grade of ${p.what}`}
                placeholder={p.what}
                defaultValue={p.name}
                onBlur={(e) =>
                  e.target.value !== p.name &&
                  save(put(i, { name: e.target.value }), `Name of ${p.what}`)
                }
              />
            )}
            {open === i &&
              Object.entries(dials).map(([key, dial]) => (
                <Amount
                  key={key}
                  {...scale(dial)}
                  value={p[key as "stops"]}
                  onHold={(v) => hold({ look: { finish: { parts: put(i, { [key]: v }) } } }, false)}
                  onRelease={() => void release(`${dial.label} of ${p.what}`)}
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
      <Select
        className="mt-1 w-full"
        label="Grade by name"
        value=""
        placeholder="Choose by name"
        options={[
          {
            label: "Materials",
            options: (list.data?.materials ?? []).map((m) => ({
              value: `material: ${m.name}`,
              label: m.name,
            })),
          },
          {
            label: "Parts",
            options: (list.data?.parts ?? []).map((part) => ({
              value: `part: ${part.name}`,
              label: part.name,
            })),
          },
        ]}
        onPick={(picked) => {
          const [of, ...what] = picked.split(": ");
          void gradeNamed(of as PartGrade["of"], what.join(": "));
        }}
      />
      {parts.length === 0 && (
        <p className="mt-1 text-ink-2">
          Pick something in the picture and grade it alone: darker, warmer, quieter.
        </p>
      )}
    </Section>
  );
}
