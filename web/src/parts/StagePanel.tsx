import { type ComponentType, lazy, Suspense, useEffect } from "react";
import { elsewhere, History } from "./History";
import { Sheet } from "./Sheet";
import { Region } from "./Region";
import { stepBack } from "../state/edits";
import { get, set, useStudio } from "../state/store";
import { STAGES, type Stage } from "../state/store/view";
import { Tip } from "../ui/Tip";

/** Stages are loaded when they are first shown, or when the page has nothing else to do. */
const LOADS: Record<Stage, () => Promise<ComponentType>> = {
  Site: () => import("../stages/Site").then((m) => m.Site),
  View: () => import("../stages/Views").then((m) => m.Views),
  Daylight: () => import("../stages/Daylight").then((m) => m.Daylight),
  Fixtures: () => import("../stages/Fixtures").then((m) => m.Fixtures),
  Balance: () => import("../stages/Balance").then((m) => m.Balance),
  Finish: () => import("../stages/Finish").then((m) => m.Finish),
  Handover: () => import("../stages/Handover").then((m) => m.Handover),
};
/** Time between two tries while the server is away, and until the other stages are loaded, in ms. */
const ASK_AGAIN = 1000;
const IN_PEACE = 3000;

async function loaded(stage: Stage): Promise<{ default: ComponentType }> {
  for (;;) {
    try {
      return { default: await LOADS[stage]() };
    } catch {
      await new Promise((goOn) => setTimeout(goOn, ASK_AGAIN));
    }
  }
}

// The first one comes with the page, not once the page has been drawn.
void LOADS[get().stage]().catch(() => undefined);

const PANELS = Object.fromEntries(
  STAGES.map((stage) => [stage, lazy(() => loaded(stage))]),
) as unknown as Record<Stage, ComponentType>;

/** The controls of the current stage, at its head the drawing sheet where the page is narrow; undo and theme at its foot. */
export function StagePanel({ sheet }: { sheet: boolean }) {
  const stage = useStudio((s) => s.stage);
  const theme = useStudio((s) => s.theme);
  const undo = useStudio((s) => s.project?.undo);
  const redo = useStudio((s) => s.project?.redo);
  const undoBy = useStudio((s) => s.project?.undo_by);
  const redoBy = useStudio((s) => s.project?.redo_by);
  const session = useStudio((s) => s.session);
  // A step of another page is taken back for everybody: it is said whose it is.
  const whose = (by?: string | null) => (elsewhere(by, session) ? " (made by another page)" : "");
  const Panel = PANELS[stage];
  useEffect(() => {
    const inPeace = setTimeout(() => STAGES.forEach((s) => void loaded(s)), IN_PEACE);
    return () => clearTimeout(inPeace);
  }, []);
  return (
    <aside
      className="side flex min-h-0 flex-col border-l border-rule bg-sheet"
      aria-label={`${stage} stage`}
    >
      {sheet && (
        <section className="shrink-0 border-b border-rule px-4 pt-2 pb-2" aria-label="Sheet">
          <Sheet />
        </section>
      )}
      <div key={stage} className="min-h-0 flex-1 overflow-y-auto px-4">
        <Region name="stage">
          <Suspense fallback={null}>
            <Panel />
          </Suspense>
        </Region>
      </div>
      <footer className="flex items-center gap-3 border-t border-rule px-4 py-2">
        <Tip text={undo ? `Undo: ${undo}${whose(undoBy)}` : "Nothing to undo"}>
          <button className="quiet" disabled={!undo} onClick={() => void stepBack("undo")}>
            Undo
          </button>
        </Tip>
        <Tip text={redo ? `Redo: ${redo}${whose(redoBy)}` : "Nothing to redo"}>
          <button className="quiet" disabled={!redo} onClick={() => void stepBack("redo")}>
            Redo
          </button>
        </Tip>
        <History />
        <button
          className="quiet"
          onClick={() => {
            const next = theme === "day" ? "night" : "day";
            localStorage.setItem("theme", next);
            set({ theme: next });
          }}
        >
          {theme === "day" ? "Night" : "Day"}
        </button>
        <Tip text="Find any control by its name (Ctrl K)">
          <button className="quiet ml-auto" onClick={() => set({ commandsShown: true })}>
            Find …
          </button>
        </Tip>
        <button className="quiet" aria-label="Keyboard" onClick={() => set({ keysShown: true })}>
          ?
        </button>
      </footer>
    </aside>
  );
}
