import type { Mix } from "../api/types";
import { editLook, lookRow, sourceList, useLook, useStudio } from "../state/studio";

const STEPS: [string, number][] = [
  ["−1 EV", -1],
  ["−⅓", -1 / 3],
  ["+⅓", 1 / 3],
  ["+1 EV", 1],
];
const plain = { level: 0, muted: false, solo: false };

/** Levels of several sources at once: all lamps by a step, or those of another look. */
export function LevelsTogether() {
  const project = useStudio((s) => s.project);
  const selected = useStudio((s) => s.selected);
  const current = useStudio(lookRow);
  const look = useLook();
  if (!project || !look || !current) return null;
  const sources = sourceList(project, look);
  const lamps = sources.filter((s) => project.sources.some((row) => row.id === s.id));
  const one = sources.find((s) => s.id === selected);
  const others = project.looks.filter((l) => l.id !== current.id);
  const shift = (step: number, label: string) => {
    const level = (s: (typeof lamps)[number]) => Math.min(8, Math.max(-8, s.mix.level + step));
    const mix = Object.fromEntries(lamps.map((s) => [s.id, { level: level(s) } as Mix]));
    void editLook({ mix }, `All lamps ${label}`);
  };
  const copy = (value: string) => {
    const [id, source] = value.split(" ");
    const from = others.find((l) => l.id === id);
    if (!from) return;
    const wanted = source ? sources.filter((s) => s.id === source) : sources;
    const mix = Object.fromEntries(wanted.map((s) => [s.id, from.settings.mix[s.id] ?? plain]));
    void editLook({ mix }, `Levels of ${from.name}`);
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
              onClick={() => shift(step, label)}
            >
              {label}
            </button>
          ))}
        </div>
      )}
      {others.length > 0 && (
        <select
          className="entry mt-2 w-full"
          aria-label="Copy levels of another look"
          value=""
          onChange={(e) => copy(e.target.value)}
        >
          <option value="">Copy levels of …</option>
          {others.map((l) => (
            <optgroup key={l.id} label={l.name}>
              <option value={l.id}>{l.name}: all sources</option>
              {one && (
                <option value={`${l.id} ${one.id}`}>
                  {l.name}: {one.name} only
                </option>
              )}
            </optgroup>
          ))}
        </select>
      )}
    </div>
  );
}
