import { Scroll } from "../ui/Scroll";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answer, api } from "../api/client";
import type { MaterialRow, PartRow } from "../api/types";
import { edit } from "../state/edits";
import { set, useStudio } from "../state/store";
import { askCovered } from "../state/asking";
import { AS_IN_THE_FILE, Lit, type Patch, Ticked } from "./Lit";
import { PartGroup, TAGS, type PartActs } from "./PartGroup";
import { Section } from "../ui/Section";
import { Select } from "../ui/Select";
import { Tip } from "../ui/Tip";

/** Parts and materials of the building as the artist's edits leave them. */
export function usePartList() {
  const project = useStudio((s) => s.project);
  const model = project?.models[0];
  return useQuery({
    queryKey: ["parts", project?.id, model?.id, model?.settings.edits],
    queryFn: () =>
      answer(
        api.GET("/api/projects/{project}/parts", {
          params: { path: { project: project?.id ?? "" } },
        }),
      ),
    enabled: !!model,
    placeholderData: (old) => old,
  });
}

/** Shares of the picture that parts and materials cover; asked anew when view or building change. */
export function useCovered() {
  const project = useStudio((s) => s.project);
  const viewId = useStudio((s) => s.viewId);
  const lit = useStudio((s) => !!s.frame && !s.frame.empty && !s.frame.moving);
  const view = project?.views.find((v) => v.id === viewId)?.settings;
  const edits = project?.models[0]?.settings.edits;
  return useQuery({
    queryKey: ["covered", viewId, view?.position, view?.target, view?.focal_length_mm, edits],
    queryFn: askCovered,
    enabled: lit,
    placeholderData: (old) => old,
  }).data;
}

/** Parts and materials of the building, searched together; what is picked in the picture is found. */
export function Parts() {
  const project = useStudio((s) => s.project);
  const found = useStudio((s) => s.found);
  const [wanted, setWanted] = useState("");
  const [tag, setTag] = useState("");
  const model = project?.models[0];
  const list = usePartList();
  const covered = useCovered();
  if (!project || !model || !list.data) return null;
  const { edits } = model.settings;
  const change = (patch: Partial<typeof edits>, label: string) =>
    void edit("model", model.id, { settings: { edits: patch } }, label);
  const size = (m: MaterialRow) => covered?.materials[m.name] ?? 0;
  const matches = (name: string) => name.toLowerCase().includes(wanted.toLowerCase());
  const groups = new Map<string, PartRow[]>();
  for (const part of list.data.parts)
    if (
      (!tag || part.tag === tag) &&
      (matches(part.name) || matches(part.called) || matches(part.group))
    )
      groups.set(part.group, [...(groups.get(part.group) ?? []), part]);
  const hide = (names: string[], hidden: boolean) =>
    change(
      {
        hidden: hidden
          ? [...new Set([...edits.hidden, ...names])]
          : edits.hidden.filter((n) => !names.includes(n)),
      },
      `${hidden ? "Hide" : "Show"} ${names.length > 1 ? `${names.length} parts` : names[0]}`,
    );
  const acts: PartActs = {
    hide,
    only: (names) => {
      const others = list.data.parts.map((q) => q.name).filter((n) => !names.includes(n));
      change(
        { hidden: others },
        `Show only ${names.length > 1 ? `${names.length} parts` : names[0]}`,
      );
    },
    rename: (name, called) => {
      // As in the file again when the field is emptied.
      const names = { [name]: called && called !== name ? called : null };
      change({ names } as never, `Rename ${name}`);
    },
    tag: (names, tag) =>
      change({ tags: Object.fromEntries(names.map((n) => [n, tag])) }, `${names[0]} is ${tag}`),
    own: (name, patch) => {
      // Without a change yet the copy is like its original; null takes it away again.
      const own_materials = { [name]: patch && { roughness: null, ...patch } };
      change({ own_materials } as never, `Material of ${name} alone`);
    },
  };
  const doubtful = list.data.materials.filter((m) => m.doubts.length > 0).length;
  return (
    <>
      <Section
        title="Parts"
        aside={
          edits.hidden.length > 0 ? (
            <button className="quiet underline" onClick={() => change({ hidden: [] }, "Show all")}>
              Show all {edits.hidden.length} hidden
            </button>
          ) : (
            `${list.data.parts.length}`
          )
        }
      >
        <div className="mb-1 flex gap-1">
          <input
            className="entry flex-1"
            placeholder="Search"
            aria-label="Search parts and materials"
            value={wanted}
            onChange={(e) => setWanted(e.target.value)}
          />
          <Tip text="Click something in the picture to find it here">
            <button className="button" onClick={() => set({ picking: "part" })}>
              Pick
            </button>
          </Tip>
          <Select
            className="w-[88px]"
            label="Only parts that are"
            value={tag}
            options={[{ value: "", label: "all" }, ...TAGS.map((t) => ({ value: t, label: t }))]}
            onPick={setTag}
          />
        </div>
        <Scroll className="max-h-[170px]">
          <ul aria-label="Parts">
            {[...groups].map(([group, parts]) => (
              <PartGroup
                key={group}
                group={group}
                parts={parts}
                found={found?.part ?? null}
                covered={covered?.parts ?? {}}
                acts={acts}
              />
            ))}
          </ul>
        </Scroll>
      </Section>
      <Section
        title="Materials"
        aside={doubtful > 0 ? <span className="text-sun-ink">{doubtful} doubtful</span> : ""}
      >
        <Scroll className="max-h-[320px]">
          <ul aria-label="Materials">
            {list.data.materials
              .filter((m) => matches(m.name))
              .sort((a, b) => size(b) - size(a))
              .map((m) => (
                <Material
                  key={`${m.name}${m.name === found?.material}`}
                  row={m}
                  covered={covered?.materials[m.name] ?? 0}
                  open={m.name === found?.material}
                  onChange={(patch, label) =>
                    change({ materials: { [m.name]: patch } } as Partial<typeof edits>, label)
                  }
                  onClay={(keep) =>
                    change(
                      {
                        not_clay: keep
                          ? [...edits.not_clay, m.name]
                          : edits.not_clay.filter((n) => n !== m.name),
                      },
                      keep ? `${m.name} keeps its material` : `${m.name} turns to clay`,
                    )
                  }
                />
              ))}
          </ul>
        </Scroll>
      </Section>
    </>
  );
}

const percent = (v: number) => `${(v * 100).toFixed(0)} %`;

function Material(p: {
  row: MaterialRow;
  /** Share of the picture it covers. */
  covered: number;
  open: boolean;
  onChange: (patch: Patch, label: string) => void;
  onClay: (keep: boolean) => void;
}) {
  const { row } = p;
  const [open, setOpen] = useState(p.open);
  const item = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (p.open) item.current?.scrollIntoView({ block: "nearest" });
  }, [p.open]);
  return (
    <li ref={item} className={open ? "border-b border-rule pb-1 last:border-b-0" : ""}>
      <button
        className={`flex w-full justify-between gap-2 text-left ${open ? "font-[650]" : ""}`}
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <span className="truncate">
          {row.name}
          {row.changed && <span className="text-ink-2"> · changed</span>}
        </span>
        <span
          className={`whitespace-nowrap ${row.doubts.length > 0 ? "text-sun-ink" : "text-ink-2"}`}
        >
          {p.covered >= 0.0005 && (
            <span className="mr-2 text-small text-ink-3">
              {(p.covered * 100).toFixed(1)} % seen
            </span>
          )}
          {row.emission_cd_m2 > 0
            ? `${row.emission_cd_m2.toFixed(0)} cd/m²`
            : row.glass
              ? "glass"
              : percent(row.reflectance)}
        </span>
      </button>
      {open && (
        <div className="pl-2">
          {row.doubts.map((d) => (
            <p key={d.text} className="text-sun-ink">
              {d.text}{" "}
              <button
                className="quiet underline"
                onClick={() => p.onChange(d.change, `${d.cure}: ${row.name}`)}
              >
                {d.cure}
              </button>
            </p>
          ))}
          <Lit row={row} name={row.name} onChange={p.onChange} />
          {!row.glass && (
            <Ticked label="Keeps itself in clay" value={row.not_clay} onChange={p.onClay} />
          )}
          {row.changed && (
            <button
              className="quiet underline"
              onClick={() => p.onChange(AS_IN_THE_FILE, `${row.name} as in the file`)}
            >
              As in the file
            </button>
          )}
        </div>
      )}
    </li>
  );
}
