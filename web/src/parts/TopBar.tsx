import { lookRow, newProject, openProject, set, STAGES, useStudio } from "../state/studio";
import { LookMenu } from "./LookMenu";

/** Name, project, stages in working order, and the looks of this building. */
export function TopBar() {
  const stage = useStudio((s) => s.stage);
  return (
    <header className="col-span-3 grid grid-cols-subgrid border-b border-rule bg-sheet">
      <div className="flex min-w-0 items-center gap-[10px] border-r border-rule px-[14px]">
        <svg width="20" height="20" viewBox="0 0 20 20" aria-hidden="true">
          <circle cx="10" cy="10" r="9" fill="none" stroke="var(--sun)" strokeWidth="1.5" />
          <path d="M10 1a9 9 0 0 1 0 18z" fill="var(--sun)" />
        </svg>
        <h1 className="wide text-[16px] font-[750]">Westlight</h1>
        <ProjectMenu />
      </div>
      <nav className="flex items-stretch gap-5 px-6" aria-label="Stages">
        {STAGES.map((name) => (
          <button
            key={name}
            aria-current={stage === name ? "step" : undefined}
            className={`relative ${stage === name ? "font-[650] text-ink" : "text-ink-2 hover:text-ink"}`}
            onClick={() => set({ stage: name })}
          >
            {name}
            {stage === name && <i className="absolute inset-x-0 bottom-[-1px] h-[3px] bg-sun" />}
          </button>
        ))}
      </nav>
      <div aria-hidden="true" />
      <Looks />
    </header>
  );
}

function ProjectMenu() {
  const projects = useStudio((s) => s.projects);
  const project = useStudio((s) => s.project);
  return (
    <select
      className="min-w-0 flex-1 truncate bg-transparent text-ink-2"
      aria-label="Project"
      value={project?.id ?? ""}
      onChange={(e) => {
        if (e.target.value === "new") {
          const name = window.prompt("Name of the new project", "New building");
          if (name) void newProject(name);
        } else void openProject(e.target.value);
      }}
    >
      {projects.map((p) => (
        <option key={p.id} value={p.id}>
          {p.name}
        </option>
      ))}
      <option value="new">New project …</option>
    </select>
  );
}

function Looks() {
  const project = useStudio((s) => s.project);
  const current = useStudio(lookRow);
  useStudio((s) => `${s.frame?.passes} ${s.frame?.settled}`);
  if (!project) return null;
  return (
    <div
      className="absolute top-[8px] right-[14px] flex items-center gap-[6px]"
      role="group"
      aria-label="Looks"
    >
      {project.looks.map((look) => {
        const picture = localStorage.getItem(`chip-${look.id}`);
        const on = look.id === current?.id;
        return (
          <button
            key={look.id}
            aria-pressed={on}
            className={`flex items-center gap-2 rounded-[3px] border px-[5px] py-[4px] ${on ? "border-ink outline-1 outline-ink" : "border-rule"}`}
            onClick={() => set({ lookId: look.id, held: null })}
          >
            {picture ? (
              <img src={picture} alt="" className="h-[20px] w-[32px] object-cover" />
            ) : (
              <i
                className="h-[20px] w-[32px]"
                style={{ background: `linear-gradient(${look.sky[0]}, ${look.sky[1]})` }}
              />
            )}
            {look.name}
            {look.settings.locked && <span className="text-ink-2">locked</span>}
          </button>
        );
      })}
      <LookMenu />
    </div>
  );
}
