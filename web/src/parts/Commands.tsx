import { Dialog } from "radix-ui";
import { useMemo, useState } from "react";
import { commandsOf, searched } from "../state/commands";
import { sourceList, useLookPart } from "../state/look";
import { set, useStudio } from "../state/store";

/** Everything the page can do, found by name: Enter goes there, or does it. */
export function Commands() {
  const open = useStudio((s) => s.commandsShown);
  return (
    <Dialog.Root open={open} onOpenChange={(commandsShown) => set({ commandsShown })}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-black/20" />
        <Dialog.Content
          className="fixed top-[12%] left-1/2 z-40 w-[460px] -translate-x-1/2 border border-ink bg-sheet text-ink"
          aria-describedby={undefined}
          onCloseAutoFocus={(e) => e.preventDefault()}
        >
          <Dialog.Title className="sr-only">Find a command</Dialog.Title>
          <List />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function List() {
  const project = useStudio((s) => s.project);
  const mix = useLookPart("mix");
  const sky = useLookPart("sky");
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const all = useMemo(
    () => commandsOf(project, project && mix && sky ? sourceList(project, { mix, sky }) : []),
    [project, mix, sky],
  );
  const found = searched(all, typed);
  const chosen = Math.min(at, Math.max(found.length - 1, 0));
  const run = (n: number) => {
    set({ commandsShown: false });
    // The list must be gone before what it leads to takes the keyboard.
    setTimeout(() => found[n]?.run(), 0);
  };
  const tell = (n: number) => set({ commandsShown: false, guide: found[n]?.about ?? "" });
  return (
    <>
      <input
        className="w-full border-b border-rule bg-transparent px-4 py-3 text-large outline-none"
        placeholder="Find a control, look, view, lamp … by any of its names"
        aria-label="Find a command"
        role="combobox"
        aria-expanded
        aria-controls="commands"
        aria-activedescendant={found[chosen] ? `command-${chosen}` : undefined}
        autoFocus
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          const way = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
          if (way) setAt(Math.min(Math.max(chosen + way, 0), found.length - 1));
          else if (e.key === "Enter" && e.shiftKey) tell(chosen);
          else if (e.key === "Enter") run(chosen);
          else return;
          e.preventDefault();
        }}
      />
      <div id="commands" role="listbox" aria-label="Commands" className="py-1">
        {found.map((c, i) => (
          // The keyboard stays in the field above, which points to the option it would run.
          // eslint-disable-next-line jsx-a11y/click-events-have-key-events
          <div
            key={`${c.where} ${c.name}`}
            id={`command-${i}`}
            role="option"
            tabIndex={-1}
            aria-selected={i === chosen}
            className={`flex cursor-pointer justify-between gap-4 px-4 py-[5px] ${i === chosen ? "bg-chosen text-on-chosen" : ""}`}
            onPointerMove={() => setAt(i)}
            onClick={() => run(i)}
          >
            <span>{c.name}</span>
            <span className="opacity-70">{c.where}</span>
          </div>
        ))}
        {found.length === 0 && <p className="px-4 py-[5px] text-ink-2">Nothing is called that.</p>}
      </div>
      {found.length > 0 && (
        <p className="flex gap-4 border-t border-rule px-4 py-[6px] text-small text-ink-2">
          <span>
            <kbd>Enter</kbd> goes there
          </span>
          <button className="quiet" tabIndex={-1} onClick={() => tell(chosen)}>
            <kbd>Shift Enter</kbd> reads about it in the guide
          </button>
        </p>
      )}
    </>
  );
}
