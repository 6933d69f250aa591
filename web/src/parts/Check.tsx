import { useState } from "react";
import { answer, api } from "../api/client";
import { askLeaks } from "../state/picture";
import { edit, say, set, useStudio } from "../state/studio";
import { Section } from "./Section";
import { metres, percent } from "./words";

interface Row {
  text: string;
  remedy: string;
  act?: { label: string; run: () => void };
}

/** Looks the building over for what will trouble its light. */
export function Check() {
  const project = useStudio((s) => s.project);
  const [rows, setRows] = useState<Row[] | null>(null);
  const [busy, setBusy] = useState(false);
  const model = project?.models[0];
  if (!project || !model) return null;
  const look = async () => {
    setBusy(true);
    try {
      const [found, leaks] = await Promise.all([
        answer(
          api.GET("/api/projects/{project}/check", { params: { path: { project: project.id } } }),
        ),
        askLeaks(),
      ]);
      const made: Row[] = found.map(({ text, remedy, part, unit }) => ({
        text,
        remedy,
        act: unit
          ? {
              label: `Take it as ${unit}`,
              run: () =>
                void edit(
                  "model",
                  model.id,
                  { settings: { scale: project.units[unit] ?? 1 } },
                  `Made in ${unit}`,
                ),
            }
          : part
            ? { label: "Show it", run: () => set({ found: { part, material: null } }) }
            : undefined,
      }));
      for (const leak of leaks.found)
        made.push({
          text: `Open sky is seen from the camera by a hole near ${leak.position.map(metres).join(", ")} (${percent(leak.share)} of all directions).`,
          remedy:
            "If it is a door or window, add an opening there; if a wall is missing, close it with a block.",
          act: {
            label: "Add an opening",
            run: () => set({ stage: "Daylight", picking: "opening", placing: null }),
          },
        });
      setRows(made);
    } catch (error) {
      say(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Section
      title="Check"
      aside={rows ? (rows.length ? `${rows.length} found` : "nothing found") : ""}
    >
      <button className="button" disabled={busy} onClick={() => void look()}>
        {busy ? "Looking …" : "Look the building over"}
      </button>
      {rows?.length === 0 && (
        <p className="mt-1 text-ink-2">No holes, no doubles, no dark lamps, a believable size.</p>
      )}
      <ul aria-label="Findings" className="max-h-[240px] overflow-y-auto">
        {rows?.map((r, i) => (
          <li key={i} className="mt-2">
            <p>{r.text}</p>
            <p className="text-ink-2">
              {r.remedy}{" "}
              {r.act && (
                <button className="quiet underline" onClick={r.act.run}>
                  {r.act.label}
                </button>
              )}
            </p>
          </li>
        ))}
      </ul>
    </Section>
  );
}
