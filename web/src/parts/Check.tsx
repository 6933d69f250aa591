import { Scroll } from "../ui/Scroll";
import { answer, api } from "../api/client";
import type { Project, Schemas } from "../api/types";
import { askCovered, askLeaks } from "../state/asking";
import { edit, editModel } from "../state/edits";
import { set, useStudio } from "../state/store";
import { Section } from "../ui/Section";
import { useChange } from "../state/queries";
import { metres, percent } from "./words";

type Box = [number, number, number, number];

interface Row {
  text: string;
  remedy: string;
  /** Where it is in the picture; null where it is not seen, undefined for the whole building. */
  box?: Box | null;
  found?: { part: string | null; material: string | null };
  act?: { label: string; run: () => void };
}

/** Half the side of what is framed around a hole, in shares of the picture. */
const HOLE = 0.05;

/** A frame around a place that may lie outside the picture. */
function around(seen: [number, number] | null): Box | null {
  if (!seen || Math.min(...seen) < 0 || Math.max(...seen) > 1) return null;
  const low = seen.map((v) => Math.max(v - HOLE, 0));
  const high = seen.map((v) => Math.min(v + HOLE, 1));
  return [...low, ...high] as Box;
}

/** Looks the building over for what will trouble its light. */
export function Check() {
  const project = useStudio((s) => s.project);
  const model = project?.models[0];
  return project && model ? <Findings project={project} model={model} /> : null;
}

function Findings({ project, model }: { project: Project; model: Project["models"][number] }) {
  const framed = useStudio((s) => s.framed);
  const cure = (f: Schemas["Finding"]): Row["act"] => {
    const { unit, material, change } = f;
    if (unit)
      return {
        label: `Take it as ${unit}`,
        run: () => {
          const settings = { scale: project.units[unit] ?? 1 };
          void edit("model", model.id, { settings }, `Units: ${unit}`);
        },
      };
    if (material && change)
      return {
        label: f.cure ?? "Change it",
        run: () =>
          void editModel(
            { materials: { [material]: change } } as never,
            `${f.cure ?? "Change"}: ${material}`,
          ),
      };
    return undefined;
  };
  const look = useChange(async () => {
    set({ framed: null });
    const [found, leaks, covered] = await Promise.all([
      answer(
        api.GET("/api/projects/{project}/check", { params: { path: { project: project.id } } }),
      ),
      askLeaks(),
      askCovered(),
    ]);
    const made: Row[] = found.map((f) => ({
      text: f.text,
      remedy: f.remedy,
      box: f.part
        ? (covered.boxes.parts[f.part] ?? null)
        : f.material
          ? (covered.boxes.materials[f.material] ?? null)
          : undefined,
      found: f.part || f.material ? { part: f.part, material: f.material } : undefined,
      act: cure(f),
    }));
    for (const leak of leaks.found)
      made.push({
        text: `Open sky is seen from indoors by a hole near ${leak.position.map(metres).join(", ")} (${percent(leak.share)} of all directions).`,
        remedy:
          "If it is a door or window, add an opening there; if a wall is missing, close it with a block.",
        box: around(leak.seen),
        act: {
          label: "Add an opening",
          run: () => set({ stage: "Daylight", picking: "opening", placing: null }),
        },
      });
    return made;
  });
  const rows = look.data;
  return (
    <Section
      title="Check"
      aside={rows ? (rows.length ? `${rows.length} found` : "nothing found") : ""}
    >
      <button className="button" disabled={look.isPending} onClick={() => look.mutate()}>
        {look.isPending ? "Looking …" : "Check the model"}
      </button>
      {rows?.length === 0 && (
        <p className="mt-1 text-ink-2">No holes, no doubles, no dark lamps, a believable size.</p>
      )}
      <Scroll className="max-h-[240px]">
        <ul aria-label="Findings">
          {rows?.map((r, i) => (
            <li key={i} className="mt-2">
              <p>{r.text}</p>
              <p className="text-ink-2">
                {r.remedy}{" "}
                {(r.box || r.found) && (
                  <button
                    className="quiet underline"
                    aria-pressed={!!r.box && framed === r.box}
                    onClick={() => {
                      set({ framed: framed === r.box ? null : (r.box ?? null) });
                      if (r.found) set({ found: r.found });
                    }}
                  >
                    Show it
                  </button>
                )}
                {r.box === null && <span> It is not seen in this view.</span>}{" "}
                {r.act && (
                  <button className="quiet underline" onClick={r.act.run}>
                    {r.act.label}
                  </button>
                )}
              </p>
            </li>
          ))}
        </ul>
      </Scroll>
    </Section>
  );
}
