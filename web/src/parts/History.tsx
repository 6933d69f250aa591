import { Scroll } from "../ui/Scroll";
import { Popover } from "radix-ui";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { Project } from "../api/types";
import { lookRow } from "../state/look";
import { get, set, useStudio } from "../state/store";
import { inTurn } from "../state/edits";
import { Tip } from "../ui/Tip";

type Step = { id: number; label: string; at: string; undone: boolean; by: string };

const when = (at: string) => {
  const then = new Date(at);
  const today = new Date().toDateString() === then.toDateString();
  return then.toLocaleString("en-GB", {
    ...(today ? {} : { day: "numeric", month: "short" }),
    hour: "2-digit",
    minute: "2-digit",
  });
};

/** Have the project changed and show it as it is then; null where that was refused. */
function ask(what: () => Promise<Project>) {
  set({ held: null });
  return inTurn(what);
}

/** Whether a step came from another page than this one. */
export const elsewhere = (by: string | null | undefined, session: string) => !!by && by !== session;

/** The last edit, and behind it the list of all edits and the kept versions of the look. */
export function History() {
  const project = useStudio((s) => s.project);
  const session = useStudio((s) => s.session);
  const last = project?.undo;
  const [open, setOpen] = useState(false);
  const [steps, setSteps] = useState<Step[]>([]);
  const id = project?.id ?? "";
  const load = async () => {
    const path = { project: id };
    setSteps(await answer(api.GET("/api/projects/{project}/history", { params: { path } })));
  };
  const goTo = async (step: number) => {
    const path = { project: id, step };
    const done = await ask(async () => {
      const made = api.POST("/api/projects/{project}/history/{step}", { params: { path } });
      return (await answer(made)).project;
    });
    if (done) await load();
  };
  const now = steps.find((s) => !s.undone)?.id ?? 0;
  return (
    <Popover.Root
      open={open}
      onOpenChange={(next) => {
        setOpen(next);
        if (next) void load();
      }}
    >
      <Tip text="All steps, and kept versions of this look">
        <Popover.Trigger asChild>
          <button className="quiet min-w-0 flex-1 truncate text-left text-small">
            History{last ? ` · ${last}` : ""}
          </button>
        </Popover.Trigger>
      </Tip>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="end"
          sideOffset={10}
          className="z-20 flex max-h-[70vh] w-[300px] flex-col border border-rule bg-sheet p-4"
          aria-label="History"
        >
          <Versions onChange={() => void load()} />
          <h2 className="wide mt-4 mb-1 text-body font-[650]">Steps</h2>
          <Scroll className="min-h-0 flex-1">
            <ol aria-label="Steps">
              {steps.map((s) => (
                <li key={s.id}>
                  <button
                    className={`grid w-full grid-cols-[1fr_auto] gap-2 border-l-2 py-[2px] pl-2 text-left ${
                      s.id === now ? "border-blue font-[650]" : "border-transparent"
                    } ${s.undone ? "text-ink-3" : ""}`}
                    aria-current={s.id === now ? "step" : undefined}
                    onClick={() => void goTo(s.id)}
                  >
                    <span className="truncate">
                      {s.label}
                      {elsewhere(s.by, session) && (
                        <span className="text-ink-3"> · another page</span>
                      )}
                    </span>
                    <span className="text-small text-ink-3">{when(s.at)}</span>
                  </button>
                </li>
              ))}
              {steps.length === 0 ? (
                <li className="text-ink-3">Nothing was changed yet.</li>
              ) : (
                <li>
                  <button
                    className={`w-full border-l-2 py-[2px] pl-2 text-left ${
                      now === 0 ? "border-blue font-[650]" : "border-transparent text-ink-2"
                    }`}
                    aria-current={now === 0 ? "step" : undefined}
                    onClick={() => void goTo(0)}
                  >
                    The beginning
                  </button>
                </li>
              )}
            </ol>
          </Scroll>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Versions({ onChange }: { onChange: () => void }) {
  const look = useStudio(lookRow);
  const [name, setName] = useState("");
  if (!look) return null;
  const project = get().project?.id ?? "";
  const keep = async () => {
    const path = { project, look: look.id };
    const done = await ask(() =>
      answer(
        api.POST("/api/projects/{project}/looks/{look}/versions", {
          params: { path },
          body: { name },
        }),
      ),
    );
    if (done) setName("");
  };
  const change = async (version: string, drop: boolean) => {
    const params = { path: { project, version } };
    await ask(() =>
      answer(
        drop
          ? api.DELETE("/api/projects/{project}/versions/{version}", { params })
          : api.POST("/api/projects/{project}/versions/{version}/restore", { params }),
      ),
    );
    onChange();
  };
  return (
    <section aria-label="Versions">
      <h2 className="wide mb-1 text-body font-[650]">Versions of {look.name}</h2>
      {look.versions.map((v) => (
        <div key={v.id} className="flex items-baseline gap-2 py-[2px]">
          <span className="min-w-0 flex-1 truncate">{v.name}</span>
          <span className="text-small text-ink-3">{when(v.at)}</span>
          <button
            className="quiet underline"
            aria-label={`Go back to ${v.name}`}
            onClick={() => void change(v.id, false)}
          >
            Go back
          </button>
          <button
            className="quiet underline"
            aria-label={`Let ${v.name} go`}
            onClick={() => void change(v.id, true)}
          >
            Let go
          </button>
        </div>
      ))}
      <form
        className="mt-1 flex gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        <input
          className="entry min-w-0 flex-1"
          aria-label="Name of the version"
          placeholder="Keep this state as …"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button className="button" disabled={!name.trim()}>
          Keep
        </button>
      </form>
    </section>
  );
}
