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
