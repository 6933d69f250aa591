import { Popover } from "radix-ui";
import { useState } from "react";
import { answer, api } from "../api/client";
import { addRow, edit, editLook, removeRow, inTurn } from "../state/edits";
import { goTo } from "../state/commands";
import { lookRow } from "../state/look";
import { set, useStudio } from "../state/store";
import { Tick } from "../ui/Tick";
import { Select } from "../ui/Select";
import { Tip } from "../ui/Tip";

/** Name, note and lock of the look that is shown; a copy of it, and what others lend it. */
export function LookMenu() {
  const project = useStudio((s) => s.project);
  const look = useStudio(lookRow);
  const [open, setOpen] = useState(false);
  if (!project || !look) return null;
  const others = project.looks.filter((l) => l.id !== look.id);
  const copy = async () => {
    setOpen(false);
    const id = await addRow("look", `${look.name} 2`, { ...look.settings, locked: false });
    if (id) set({ lookId: id, held: null });
  };
  const take = async (other: string) => {
    setOpen(false);
    set({ held: null });
    const params = { path: { project: project.id, look: look.id } };
    await inTurn(() =>
      answer(api.POST("/api/projects/{project}/looks/{look}/take", { params, body: { other } })),
    );
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Tip text="Name, note, lock and copies of this look">
        <Popover.Trigger asChild>
          <button className="quiet px-1">Look …</button>
        </Popover.Trigger>
      </Tip>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={8}
          className="z-20 w-[280px] border border-rule bg-sheet p-4"
          aria-label="Look"
        >
          <label className="grid grid-cols-[60px_1fr] items-center gap-2">
            <span className="text-ink-2">Name</span>
            <input
              key={look.name}
              className="entry"
              defaultValue={look.name}
              onBlur={(e) => {
                const name = e.target.value.trim();
                if (name && name !== look.name) void edit("look", look.id, { name }, "Rename");
              }}
            />
          </label>
          <label className="mt-2 block">
            <span className="text-ink-2">Note</span>
            <textarea
              key={look.id}
              className="entry mt-1 h-[60px] w-full resize-none"
              maxLength={2000}
              defaultValue={look.settings.note}
              onBlur={(e) =>
                e.target.value !== look.settings.note &&
                void editLook({ note: e.target.value }, "Note")
              }
            />
          </label>
          <label className="mt-1 flex items-center gap-2">
            <Tick
              checked={look.settings.locked}
              onChange={(on) => void editLook({ locked: on }, on ? "Lock" : "Unlock")}
            />
            Locked: nothing of it changes
          </label>
          <div className="mt-3 flex gap-2">
            <button className="button flex-1" onClick={() => void copy()}>
              A copy to work on
            </button>
            <button
              className="button"
              disabled={others.length === 0}
              onClick={() => {
                setOpen(false);
                void removeRow("look", look.id);
              }}
            >
              Remove
            </button>
          </div>
          <button
            className="quiet mt-2 underline"
            onClick={() => {
              setOpen(false);
              goTo("Daylight", "Starting lights");
            }}
          >
            Lights to begin with, proposed for this view …
          </button>
          {others.length > 0 && (
            <div className="mt-2 grid grid-cols-[1fr_130px] items-center gap-2">
              <span className="text-ink-2">Take everything from</span>
              <Select
                label="Take everything from"
                value=""
                placeholder="choose …"
                options={others.map((l) => ({ value: l.id, label: l.name }))}
                onPick={(from) => void take(from)}
              />
            </div>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
