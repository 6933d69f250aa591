import { answer, api } from "../api/client";
import { lookRow, sourceList, useLookOf } from "../state/look";
import { useStudio } from "../state/store";
import { inTurn } from "../state/edits";
import { Select } from "../ui/Select";

const STEPS: [string, number][] = [
  ["−1 EV", -1],
  ["−⅓", -1 / 3],
  ["+⅓", 1 / 3],
  ["+1 EV", 1],
];

/** Levels of several sources at once: all lamps by a step, or those of another look. */
export function LevelsTogether() {
  const project = useStudio((s) => s.project);
  const selected = useStudio((s) => s.selected);
  const current = useStudio(lookRow);
  const look = useLookOf("mix", "sky");
  if (!project || !look || !current) return null;
  const sources = sourceList(project, look);
  const lamps = sources.filter((s) => project.sources.some((row) => row.id === s.id));
  const one = sources.find((s) => s.id === selected);
  const others = project.looks.filter((l) => l.id !== current.id);
  const path = { project: project.id, look: current.id };
  const shift = async (step: number) => {
    await inTurn(() =>
      answer(
        api.POST("/api/projects/{project}/looks/{look}/lamps", {
          params: { path },
          body: { step },
        }),
      ),
    );
  };
  const copy = async (value: string) => {
    const [from = "", source] = value.split(" ");
    await inTurn(() =>
      answer(
        api.POST("/api/projects/{project}/looks/{look}/levels", {
          params: { path },
          body: { look: from, source: source ?? null },
        }),
      ),
    );
  };
  return (
    <div className="mt-2">
      {lamps.length > 1 && (
        <div className="flex items-center gap-1" role="group" aria-label="All lamps together">
          <span className="flex-1 text-ink-2">All lamps</span>
          {STEPS.map(([label, step]) => (
            <button
              key={label}
              className="button px-[6px]"
              aria-label={`All lamps ${label}`}
              onClick={() => void shift(step)}
            >
              {label}
            </button>
          ))}
        </div>
      )}
      {others.length > 0 && (
        <Select
          className="mt-2 w-full"
          label="Copy levels of another look"
          value=""
          placeholder="Copy levels of …"
          options={others.map((l) => ({
            label: l.name,
            options: [
              { value: l.id, label: `${l.name}: all sources` },
              ...(one
                ? [{ value: `${l.id} ${one.id}`, label: `${l.name}: ${one.name} only` }]
                : []),
            ],
          }))}
          onPick={(from) => void copy(from)}
        />
      )}
    </div>
  );
}
