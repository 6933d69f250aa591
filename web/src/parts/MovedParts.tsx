import { useState } from "react";
import type { Moved } from "../api/types";
import { editModel } from "../state/edits";
import { release } from "../state/held";
import { holdPlaced, moveAlike, putBack, usePlaced, type Placed } from "../state/moved";
import { set, useStudio } from "../state/store";
import { Section } from "../ui/Section";
import { Tip } from "../ui/Tip";
import { usePartList } from "./Parts";
import { DialLine } from "./DialLine";
import { degrees } from "./words";

/** Parts of the building that stand otherwise than in its file, and copies of parts. */
export function MovedParts() {
  const model = useStudio((s) => s.project?.models[0]);
  const picking = useStudio((s) => s.picking);
  const [open, setOpen] = useState("");
  const placed = usePlaced();
  if (!model) return null;
  const pick = (what: "move part" | "copy part", label: string, hint: string) => (
    <Tip text={hint}>
      <button
        className="button"
        aria-pressed={picking === what}
        onClick={() => set({ picking: picking === what ? null : what, placing: null })}
      >
        {label}
      </button>
    </Tip>
  );
  return (
    <Section title="Moved parts" aside={placed.length > 0 ? `${placed.length}` : "none"}>
      <div className="mb-1 grid grid-cols-2 gap-1">
        {pick("move part", "Move a part", "Click it in the picture or on the plan")}
        {pick("copy part", "Copy a part", "Click what there should be one more of")}
      </div>
      {placed.length === 0 && (
        <p className="text-ink-2">
          Furniture and all else of the building can be moved, turned and copied. It stays so when
          the building is imported again.
        </p>
      )}
      <ul aria-label="Moved parts">
        {placed.map((p) => {
          const key = `${p.kind} ${p.id}`;
          return (
            <li
              key={key}
              className={open === key ? "border-b border-rule pb-2 last:border-b-0" : ""}
            >
              <div className="flex justify-between gap-2">
                <button
                  className={`min-w-0 flex-1 truncate text-left ${open === key ? "font-[650]" : ""}`}
                  aria-expanded={open === key}
                  onClick={() => setOpen(open === key ? "" : key)}
                >
                  {p.name}
                </button>
                <button
                  className="quiet text-small underline"
                  aria-label={p.kind === "copy" ? `Remove ${p.name}` : `Put ${p.name} back`}
                  onClick={() => void putBack(p)}
                >
                  {p.kind === "copy" ? "remove" : "put back"}
                </button>
              </div>
              {open === key && <Details of={p} />}
            </li>
          );
        })}
      </ul>
    </Section>
  );
}

/** How far it was moved, turned and scaled; the whole kind with it. */
function Details({ of: p }: { of: Placed }) {
  const list = usePartList().data?.parts ?? [];
  const row = list.find((r) => r.name === p.of);
  const alike = list.filter((r) => r.group === row?.group).map((r) => r.name);
  const line = (
    name: "by" | "turn_deg" | "size",
    label: string,
    value: number,
    patch: (v: number) => Partial<Moved>,
  ) => (
    <DialLine
      key={label}
      of="moved"
      name={name}
      label={label}
      value={value}
      anywhere={name === "by"}
      {...(name === "turn_deg" && { write: degrees })}
      onHold={(v) => holdPlaced(p.kind, p.id, patch(v))}
      onRelease={(v) => {
        holdPlaced(p.kind, p.id, patch(v));
        void release(`${label} of ${p.name}`);
      }}
    />
  );
  const by = (i: 0 | 1 | 2) => (v: number) => {
    const to: Moved["by"] = [...p.by];
    to[i] = v;
    return { by: to };
  };
  return (
    <div className="pl-2">
      {line("by", "East by", p.by[0], by(0))}
      {line("by", "North by", p.by[1], by(1))}
      {line("by", "Up by", p.by[2], by(2))}
      {line("turn_deg", "Turned by", p.turn_deg, (turn_deg) => ({ turn_deg }))}
      {line("size", "Size", p.size, (size) => ({ size }))}
      {p.kind === "part" && alike.length > 1 && (
        <button className="quiet underline" onClick={() => void moveAlike(p, alike)}>
          Move all {alike.length} of {row?.group} like it
        </button>
      )}
      {p.kind === "copy" && (
        <input
          className="entry mt-1 w-full"
          aria-label={`Name of ${p.name}`}
          defaultValue={p.name}
          maxLength={80}
          onBlur={(e) => {
            const name = e.target.value.trim();
            if (name && name !== p.name)
              void renamed(
                p,
                name,
                list.map((r) => r.name),
              );
          }}
        />
      )}
    </div>
  );
}

const renamed = (p: Placed, name: string, parts: string[]) => {
  const copies = useStudio.getState().project?.models[0]?.settings.edits.copies ?? [];
  // A name is how a part is found: two things of one name could not be told apart.
  if ([...parts, ...copies.map((c) => c.name)].includes(name)) {
    set({ problem: `There is a “${name}” already; give the copy another name.` });
    return;
  }
  return editModel(
    { copies: copies.map((c) => (c.id === p.id ? { ...c, name } : c)) },
    `Rename ${p.name}`,
  );
};
