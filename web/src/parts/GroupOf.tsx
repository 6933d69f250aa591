import { Row } from "../ui/Row";
import { edit } from "../state/edits";
import { useStudio } from "../state/store";

/** The group a source is balanced with; typed or one that is there. */
export function GroupOf({ id, group }: { id: string; group: string }) {
  const sources = useStudio((s) => s.project?.sources) ?? [];
  const groups = [...new Set(sources.map((s) => s.settings.group).filter(Boolean))].sort();
  return (
    <Row label="Group">
      <input
        className="entry"
        list="groups"
        placeholder="none"
        key={`${id}${group}`}
        defaultValue={group}
        onBlur={(e) => {
          const to = e.target.value.trim();
          if (to !== group)
            void edit(
              "source",
              id,
              { settings: { group: to } },
              to ? `Into ${to}` : "Out of its group",
            );
        }}
      />
      <datalist id="groups">
        {groups.map((g) => (
          <option key={g} value={g} />
        ))}
      </datalist>
    </Row>
  );
}

/** The circuit a fixture is wired to, for the light schedule. */
export function CircuitOf({ id, circuit }: { id: string; circuit: string }) {
  const sources = useStudio((s) => s.project?.sources) ?? [];
  const known = sources.flatMap((s) =>
    s.settings.kind === "fixture" && s.settings.circuit ? [s.settings.circuit] : [],
  );
  return (
    <Row label="Circuit">
      <input
        className="entry"
        list="circuits"
        placeholder="none"
        maxLength={40}
        key={`${id}${circuit}`}
        defaultValue={circuit}
        onBlur={(e) => {
          const to = e.target.value.trim();
          if (to !== circuit)
            void edit("source", id, { settings: { circuit: to } }, `Circuit ${to || "none"}`);
        }}
      />
      <datalist id="circuits">
        {[...new Set(known)].sort().map((c) => (
          <option key={c} value={c} />
        ))}
      </datalist>
    </Row>
  );
}
