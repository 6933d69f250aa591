import { Balance } from "../stages/Balance";
import { Daylight } from "../stages/Daylight";
import { Fixtures } from "../stages/Fixtures";
import { Finish } from "../stages/Finish";
import { Handover } from "../stages/Handover";
import { Site } from "../stages/Site";
import { Views } from "../stages/Views";
import { elsewhere, History } from "./History";
import { Sheet } from "./Sheet";
import { set, stepBack, useStudio, type Stage } from "../state/studio";

const PANELS: Record<Stage, () => React.ReactNode> = {
  Site,
  View: Views,
  Daylight,
  Fixtures,
  Balance,
  Finish,
  Handover,
};

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
  return (
    <aside
      className="flex min-h-0 flex-col border-l border-rule bg-sheet"
      aria-label={`${stage} stage`}
    >
      {sheet && (
        <section className="shrink-0 border-b border-rule px-4 pt-2 pb-2" aria-label="Sheet">
          <Sheet />
        </section>
      )}
      <div key={stage} className="min-h-0 flex-1 overflow-y-auto px-4">
        <Panel />
      </div>
      <footer className="flex items-center gap-3 border-t border-rule px-4 py-2">
        <button
          className="quiet"
          disabled={!undo}
          title={undo ? `Undo: ${undo}${whose(undoBy)}` : "Nothing to undo"}
          onClick={() => void stepBack("undo")}
        >
          Undo
        </button>
        <button
          className="quiet"
          disabled={!redo}
          title={redo ? `Redo: ${redo}${whose(redoBy)}` : "Nothing to redo"}
          onClick={() => void stepBack("redo")}
        >
          Redo
        </button>
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
        <button
          className="quiet ml-auto"
          title="Find any control by its name (Ctrl K)"
          onClick={() => set({ commandsShown: true })}
        >
          Find …
        </button>
        <button className="quiet" aria-label="Keyboard" onClick={() => set({ keysShown: true })}>
          ?
        </button>
      </footer>
    </aside>
  );
}
