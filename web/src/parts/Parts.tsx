import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answer, api } from "../api/client";
import type { MaterialRow, PartRow } from "../api/types";
import { edit, set, useStudio } from "../state/studio";
import { Amount } from "./Amount";
import { Section } from "./Section";

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

/** Parts and materials of the building, searched together; what is picked in the picture is found. */
export function Parts() {
  const project = useStudio((s) => s.project);
  const found = useStudio((s) => s.found);
  const [wanted, setWanted] = useState("");
  const model = project?.models[0];
  const list = usePartList();
  if (!project || !model || !list.data) return null;
  const { edits } = model.settings;
  const change = (patch: Partial<typeof edits>, label: string) =>
    void edit("model", model.id, { settings: { edits: patch } }, label);
  const matches = (name: string) => name.toLowerCase().includes(wanted.toLowerCase());
  const groups = new Map<string, PartRow[]>();
  for (const part of list.data.parts)
    if (matches(part.name) || matches(part.group))
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
            placeholder="Search parts and materials"
            aria-label="Search parts and materials"
            value={wanted}
            onChange={(e) => setWanted(e.target.value)}
          />
          <button
            className="button"
            title="Click something in the picture to find it here"
            onClick={() => set({ picking: "part" })}
          >
            Pick
          </button>
        </div>
        <ul className="max-h-[170px] overflow-y-auto" aria-label="Parts">
          {[...groups].map(([group, parts]) => (
            <Group
              key={group}
              group={group}
              parts={parts}
              found={found?.part ?? null}
              onHide={hide}
            />
          ))}
        </ul>
      </Section>
      <Section
        title="Materials"
        aside={doubtful > 0 ? <span className="text-sun">{doubtful} doubtful</span> : ""}
      >
        <ul className="max-h-[320px] overflow-y-auto" aria-label="Materials">
          {list.data.materials
            .filter((m) => matches(m.name))
            .map((m) => (
              <Material
                key={`${m.name}${m.name === found?.material}`}
                row={m}
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
      </Section>
    </>
  );
}

function Group(p: {
  group: string;
  parts: PartRow[];
  found: string | null;
  onHide: (names: string[], hidden: boolean) => void;
}) {
  const holds = p.parts.some((part) => part.name === p.found);
  const [open, setOpen] = useState(false);
  const names = p.parts.map((part) => part.name);
  const hidden = p.parts.every((part) => part.hidden);
  const single = p.parts.length === 1;
  const line = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (holds) line.current?.scrollIntoView({ block: "nearest" });
  }, [holds, p.found]);
  return (
    <li ref={line}>
      <div
        className={`flex justify-between border-l-2 pl-2 ${holds ? "border-blue font-[650]" : "border-transparent"} ${hidden ? "text-ink-3" : ""}`}
      >
        <button
          className="min-w-0 flex-1 truncate text-left"
          aria-expanded={single ? undefined : open || holds}
          onClick={() => setOpen(!open)}
        >
          {single ? names[0] : `${p.group} · ${names.length}`}
        </button>
        <button
          className="quiet text-[11.5px] underline"
          aria-label={`${hidden ? "Show" : "Hide"} ${single ? names[0] : p.group}`}
          onClick={() => p.onHide(names, !hidden)}
        >
          {hidden ? "show" : "hide"}
        </button>
      </div>
      {!single && (open || holds) && (
        <ul className="pl-4">
          {p.parts.map((part) => (
            <li key={part.name} className="flex justify-between">
              <span className={`truncate ${part.name === p.found ? "font-[650]" : "text-ink-2"}`}>
                {part.name}
              </span>
              <button
                className="quiet text-[11.5px] underline"
                aria-label={`${part.hidden ? "Show" : "Hide"} ${part.name}`}
                onClick={() => p.onHide([part.name], !part.hidden)}
              >
                {part.hidden ? "show" : "hide"}
              </button>
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}

type Patch = Record<string, number | boolean | null>;

function Material(p: {
  row: MaterialRow;
  open: boolean;
  onChange: (patch: Patch, label: string) => void;
  onClay: (keep: boolean) => void;
}) {
  const { row } = p;
  const [open, setOpen] = useState(p.open);
  const [held, setHeld] = useState<Record<string, number>>({});
  const item = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (p.open) item.current?.scrollIntoView({ block: "nearest" });
  }, [p.open]);
  const line = (
    key: "reflectance" | "roughness" | "metallic" | "emission_cd_m2",
    label: string,
    max: number,
    write: (v: number) => string,
  ) => (
    <Amount
      label={label}
      value={held[key] ?? row[key]}
      min={0}
      max={max}
      step={max > 1 ? 10 : 0.01}
      normal={row[key]}
      write={write}
      read={(t) => Number.parseFloat(t) / (max > 1 ? 1 : 100)}
      onHold={(v) => setHeld({ ...held, [key]: v })}
      onRelease={(v) => {
        setHeld({});
        p.onChange({ [key]: v }, `${label} of ${row.name}`);
      }}
    />
  );
  const percent = (v: number) => `${(v * 100).toFixed(0)} %`;
  const tick = (label: string, value: boolean, act: (v: boolean) => void) => (
    <label className="flex items-center gap-2 py-[2px]">
      <input
        type="checkbox"
        className="accent-[var(--chosen)]"
        checked={value}
        onChange={(e) => act(e.target.checked)}
      />
      {label}
    </label>
  );
  return (
    <li ref={item} className={open ? "border-b border-rule pb-1" : ""}>
      <button
        className={`flex w-full justify-between gap-2 text-left ${open ? "font-[650]" : ""}`}
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <span className="truncate">
          {row.name}
          {row.changed && <span className="text-ink-2"> · changed</span>}
        </span>
        <span className={row.doubts.length > 0 ? "text-sun" : "text-ink-2"}>
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
            <p key={d} className="text-sun">
              {d}
            </p>
          ))}
          {row.reflectance > 0.9 && !row.glass && row.emission_cd_m2 === 0 && (
            <button
              className="quiet underline"
              onClick={() => p.onChange({ reflectance: 0.8 }, `${row.name} to 80 %`)}
            >
              Bring it to 80 %
            </button>
          )}
          {line("reflectance", row.glass ? "Tint" : "Reflectance", 1, percent)}
          {!row.glass && line("roughness", "Roughness", 1, percent)}
          {!row.glass && line("metallic", "Metal", 1, percent)}
          {line("emission_cd_m2", "Own light", 20_000, (v) => `${v.toFixed(0)} cd/m²`)}
          {tick("Glass", row.glass, (glass) => p.onChange({ glass }, `Glass: ${row.name}`))}
          {row.glass &&
            tick("Light passes straight (clear path)", row.clear_path, (clear_path) =>
              p.onChange({ clear_path }, `Clear path: ${row.name}`),
            )}
          {!row.glass && tick("Keeps itself in clay", row.not_clay, p.onClay)}
          {row.changed && (
            <button
              className="quiet underline"
              onClick={() =>
                p.onChange(
                  {
                    reflectance: null,
                    roughness: null,
                    metallic: null,
                    glass: null,
                    clear_path: null,
                    emission_cd_m2: null,
                  },
                  `${row.name} as in the file`,
                )
              }
            >
              As in the file
            </button>
          )}
        </div>
      )}
    </li>
  );
}
