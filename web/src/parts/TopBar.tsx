import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { goHome } from "../state/home";
import { lookRow } from "../state/look";
import { set, useStudio } from "../state/store";
import { STAGES } from "../state/store/view";
import { Brand } from "./Brand";
import { LookMenu } from "./LookMenu";
import { Tip } from "../ui/Tip";

/** Name, project, stages in working order, and the looks of this building. */
export function TopBar() {
  const stage = useStudio((s) => s.stage);
  return (
    <header className="flex min-w-0 items-stretch border-b border-rule bg-sheet">
      <div className="flex shrink-0 items-center gap-[10px] pl-[14px]">
        <Brand size={20} />
        <ProjectMenu />
      </div>
      <nav className="flex shrink-0 items-stretch gap-[18px] px-6" aria-label="Stages">
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
      <Looks />
    </header>
  );
}

function ProjectMenu() {
  const name = useStudio((s) => s.project?.name ?? "Projects");
  return (
    <Tip text="All projects: open, new, rename, copy, export">
      <button
        className="max-w-[170px] truncate text-ink-2 hover:text-ink"
        aria-label={`All projects; this is ${name}`}
        onClick={goHome}
      >
        {name} ▾
      </button>
    </Tip>
  );
}

/** The light of a look in a sentence, and its note; asked for when it is to be read. */
function InWords({ project, look }: { project: string; look: string }) {
  const row = useStudio((s) => s.project?.looks.find((l) => l.id === look));
  const told = useQuery({
    queryKey: ["described", project, look, row?.settings],
    queryFn: () =>
      answer(
        api.GET("/api/projects/{project}/looks/{look}/described", {
          params: { path: { project, look } },
        }),
      ),
    staleTime: Infinity,
  });
  return [told.data?.text, row?.settings.note].filter(Boolean).join("\n") || row?.name;
}

function Looks() {
  const project = useStudio((s) => s.project);
  const current = useStudio(lookRow);
  useStudio((s) => `${s.frame?.passes} ${s.frame?.settled}`);
  if (!project) return null;
  return (
    <div
      className="ml-auto flex min-w-0 items-center gap-[6px] overflow-x-auto px-[14px]"
      role="group"
      aria-label="Looks"
    >
      {project.looks.map((look) => {
        const picture = localStorage.getItem(`chip-${look.id}`);
        const on = look.id === current?.id;
        return (
          <Tip key={look.id} text={<InWords project={project.id} look={look.id} />}>
            <button
              aria-pressed={on}
              className={`flex shrink-0 items-center gap-[6px] rounded-[3px] border px-[4px] py-[3px] whitespace-nowrap ${on ? "border-ink outline-1 outline-ink" : "border-rule"}`}
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
          </Tip>
        );
      })}
      <LookMenu />
    </div>
  );
}
