import { useState } from "react";
import { addRow, edit, editLook, removeRow } from "../state/edits";
import { groupKey, NO_MIX, useLookPart } from "../state/look";
import { useStudio } from "../state/store";
import { Section } from "../ui/Section";

/** Levels of all lamps under a name, to be used in any look. */
export function LightScenes() {
  const project = useStudio((s) => s.project);
  // As they are shown: what a hand just let go of may still be on its way.
  const mix = useLookPart("mix");
  const [name, setName] = useState("");
  if (!project || !mix || project.sources.length === 0) return null;
  const groups = new Set(project.sources.map((s) => s.settings.group).filter(Boolean));
  const ids = [...project.sources.map((s) => s.id), ...[...groups].map(groupKey)];
  const levels = Object.fromEntries(ids.map((id) => [id, mix[id] ?? NO_MIX]));
  const keep = async () => {
    const wanted = name.trim();
    if (!wanted) return;
    const same = project.scenes.find((s) => s.name === wanted);
    if (same) await edit("scene", same.id, { settings: { levels } }, `Scene ${wanted}`);
    else await addRow("scene", wanted, { levels });
    setName("");
  };
  return (
    <Section title="Scenes of the lamps" aside={project.scenes.length > 0 ? "" : "none"}>
      <ul aria-label="Scenes of the lamps">
        {project.scenes.map((s) => (
          <li key={s.id} className="flex items-center gap-2 py-[2px]">
            <input
              className="entry min-w-0 flex-1"
              aria-label={`Name of scene ${s.name}`}
              defaultValue={s.name}
              maxLength={200}
              onBlur={(e) => {
                const to = e.target.value.trim();
                if (to && to !== s.name) void edit("scene", s.id, { name: to }, `Rename ${s.name}`);
              }}
            />
            <button
              className="button"
              aria-label={`Use scene ${s.name}`}
              onClick={() => void editLook({ mix: s.settings.levels }, `Scene ${s.name}`)}
            >
              Use
            </button>
            <button
              className="quiet text-small underline"
              aria-label={`Remove scene ${s.name}`}
              onClick={() => void removeRow("scene", s.id)}
            >
              remove
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-1 flex gap-1"
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        <input
          className="entry min-w-0 flex-1"
          placeholder="Dinner, cleaning …"
          aria-label="Name of a new scene"
          value={name}
          maxLength={200}
          onChange={(e) => setName(e.target.value)}
        />
        <button className="button" disabled={!name.trim()}>
          Keep the levels
        </button>
      </form>
      <p className="mt-1 text-ink-2">
        Levels, mute and solo of all lamps and their groups; sun and sky stay with the look.
      </p>
    </Section>
  );
}
