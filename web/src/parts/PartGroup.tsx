import { Row } from "../ui/Row";
import { useEffect, useRef, useState } from "react";
import type { PartRow } from "../api/types";
import { Lit, type Patch } from "./Lit";
import { Select } from "../ui/Select";
import { Tip } from "../ui/Tip";

export const TAGS = [
  "building",
  "glass",
  "ground",
  "surroundings",
  "plant",
  "lamp body",
  "furniture",
] as const;

export interface PartActs {
  hide: (names: string[], hidden: boolean) => void;
  only: (names: string[]) => void;
  rename: (name: string, called: string) => void;
  tag: (names: string[], tag: PartRow["tag"]) => void;
  own: (name: string, patch: Patch | null) => void;
}

const share = (v: number) => (v >= 0.0005 ? `${(v * 100).toFixed(1)} %` : "");

/** Parts of one kind: one line, or a heading with its parts below. */
export function PartGroup(p: {
  group: string;
  parts: PartRow[];
  found: string | null;
  covered: Record<string, number>;
  acts: PartActs;
}) {
  const holds = p.parts.some((part) => part.name === p.found);
  const [open, setOpen] = useState(false);
  const names = p.parts.map((part) => part.name);
  const hidden = p.parts.every((part) => part.hidden);
  const line = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (holds) line.current?.scrollIntoView({ block: "nearest" });
  }, [holds, p.found]);
  const single = p.parts.length === 1 ? p.parts[0] : undefined;
  if (single)
    return (
      <li ref={line}>
        <Part part={single} found={holds} covered={p.covered} acts={p.acts} />
      </li>
    );
  const all = p.parts.reduce((sum, part) => sum + (p.covered[part.name] ?? 0), 0);
  return (
    <li ref={line}>
      <div
        className={`flex gap-2 border-l-2 pl-2 ${holds ? "border-blue font-[650]" : "border-transparent"} ${hidden ? "text-ink-3" : ""}`}
      >
        <button
          className="min-w-0 flex-1 truncate text-left"
          aria-expanded={open || holds}
          onClick={() => setOpen(!open)}
        >
          {p.group} · {names.length}
        </button>
        <span className="text-small text-ink-3">{share(all)}</span>
        <Buttons name={p.group} names={names} hidden={hidden} acts={p.acts} />
      </div>
      {(open || holds) && (
        <ul className="pl-4">
          {p.parts.map((part) => (
            <li key={part.name}>
              <Part part={part} found={part.name === p.found} covered={p.covered} acts={p.acts} />
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}

function Buttons(p: { name: string; names: string[]; hidden: boolean; acts: PartActs }) {
  return (
    <>
      <button
        className="quiet text-small underline"
        aria-label={`Show only ${p.name}`}
        onClick={() => p.acts.only(p.names)}
      >
        only
      </button>
      <button
        className="quiet text-small underline"
        aria-label={`${p.hidden ? "Show" : "Hide"} ${p.name}`}
        onClick={() => p.acts.hide(p.names, !p.hidden)}
      >
        {p.hidden ? "show" : "hide"}
      </button>
    </>
  );
}

/** One part; opened, its name, what it is taken for, and a material of its own. */
function Part(p: {
  part: PartRow;
  found: boolean;
  covered: Record<string, number>;
  acts: PartActs;
}) {
  const { part, acts } = p;
  const [open, setOpen] = useState(false);
  return (
    <>
      <div
        className={`flex gap-2 border-l-2 pl-2 ${p.found ? "border-blue font-[650]" : "border-transparent"} ${part.hidden ? "text-ink-3" : ""}`}
      >
        <button
          className="min-w-0 flex-1 truncate text-left"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {part.called}
        </button>
        <span className="text-small text-ink-3">{share(p.covered[part.name] ?? 0)}</span>
        <Buttons name={part.called} names={[part.name]} hidden={part.hidden} acts={acts} />
      </div>
      {open && (
        <div className="mb-1 border-b border-rule pb-1 pl-4">
          <Row label="Name">
            <input
              className="entry"
              aria-label={`Name of ${part.name}`}
              defaultValue={part.called}
              onBlur={(e) => {
                const called = e.target.value.trim();
                if (called !== part.called) acts.rename(part.name, called);
              }}
            />
          </Row>
          <Row label="Taken for" named>
            <Select
              label={`${part.called} is taken for`}
              value={part.tag}
              options={TAGS.map((t) => ({ value: t, label: t }))}
              onPick={(tag) => acts.tag([part.name], tag as PartRow["tag"])}
            />
          </Row>
          {part.called !== part.name && (
            <p className="text-small text-ink-3">“{part.name}” in the file</p>
          )}
          {part.own ? (
            <>
              <Lit
                row={part.own}
                name={part.called}
                onChange={(patch) => acts.own(part.name, patch)}
              />
              <button className="quiet underline" onClick={() => acts.own(part.name, null)}>
                Share {part.materials[0]} again
              </button>
            </>
          ) : (
            <Tip text="Changes here will not touch other parts of the same material">
              <button className="quiet underline" onClick={() => acts.own(part.name, {})}>
                Give it its own {part.materials[0]}
              </button>
            </Tip>
          )}
        </div>
      )}
    </>
  );
}
