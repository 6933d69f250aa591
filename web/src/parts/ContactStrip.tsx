import type { Mix } from "../api/types";
import { editLook, hold, release, set, sourceList, useLookPart, useStudio } from "../state/studio";
import { Amount } from "./Amount";
import { percent, signed } from "./words";

/** One small picture per source: what it alone adds to this view. The mixing place. */
export function ContactStrip() {
  const project = useStudio((s) => s.project);
  const mix = useLookPart("mix");
  const sky = useLookPart("sky");
  if (!project || !mix || !sky || project.models.length === 0)
    return <div className="h-[134px] bg-mount-3" />;
  const sources = sourceList(project, { mix, sky });
  return (
    <div
      className="flex h-[134px] gap-[8px] overflow-x-auto bg-mount-3 px-6 pt-[11px] text-on-mount"
      role="list"
      aria-label="Sources"
    >
      {sources.map((s) => (
        <Print key={s.id} {...s} />
      ))}
    </div>
  );
}

function Print(p: { id: string; name: string; mix: Mix; silent: boolean }) {
  const print = useStudio((s) => s.contributions[p.id]);
  const selected = useStudio((s) => s.selected === p.id);
  const change = (mix: Partial<Mix>, label: string) =>
    void editLook({ mix: { [p.id]: mix } }, `${label} ${p.name}`);
  return (
    <div
      role="listitem"
      aria-label={p.name}
      data-testid={`source-${p.id}`}
      className="w-[108px] shrink-0"
    >
      <button
        className={`block h-[60px] w-full overflow-hidden rounded-[1px] ${selected ? "outline-2 outline-sun-on-mount" : ""}`}
        aria-pressed={selected}
        aria-label={`Select ${p.name}`}
        onClick={() => set({ selected: p.id })}
      >
        {print ? (
          <img
            src={print.url}
            alt=""
            className={`h-full w-full object-cover ${p.silent ? "opacity-25" : ""}`}
          />
        ) : (
          <i className="block h-full bg-black/40" />
        )}
      </button>
      <div className={`mt-[5px] flex items-center gap-[6px] ${p.silent ? "opacity-55" : ""}`}>
        <i
          className="h-[8px] w-[8px] shrink-0 rounded-full"
          style={{ background: print?.colour ?? "#888" }}
        />
        <span className="truncate" title={p.name}>
          {p.name}
        </span>
      </div>
      <div className="grid grid-cols-[1fr_34px] items-center gap-[6px]">
        <Amount
          bare
          label={`Level of ${p.name}`}
          value={p.mix.level}
          min={-8}
          max={8}
          step={0.1}
          normal={0}
          write={(v) => signed(v)}
          onHold={(level) => hold({ look: { mix: { [p.id]: { level } as Mix } } }, false)}
          onRelease={() => void release(`Level of ${p.name}`)}
        />
      </div>
      <div className="flex justify-between text-[11px] text-on-mount-2">
        <span className={print && print.burnt > 0.002 ? "text-sun-on-mount" : ""}>
          {print && print.burnt > 0.0005 && !p.silent ? `${percent(print.burnt)} burnt` : " "}
        </span>
        <span className="flex gap-[7px]">
          <button
            aria-pressed={p.mix.solo}
            className={p.mix.solo ? "font-bold text-on-mount" : "hover:text-on-mount"}
            onClick={() => change({ solo: !p.mix.solo }, "Solo")}
          >
            solo
          </button>
          <button
            aria-pressed={p.mix.muted}
            className={p.mix.muted ? "font-bold text-on-mount" : "hover:text-on-mount"}
            onClick={() => change({ muted: !p.mix.muted }, "Mute")}
          >
            mute
          </button>
        </span>
      </div>
    </div>
  );
}
