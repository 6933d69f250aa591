import { useState } from "react";
import { answer, api, form } from "../api/client";
import { useStudio } from "../state/store";
import { Section } from "../ui/Section";
import { inTurn } from "../state/edits";
import { FileButton } from "../ui/FileButton";

/** Lamps, sun and cameras out in open formats, and in again. */
export function LightsExchange({ project }: { project: string }) {
  const lookId = useStudio((s) => s.lookId);
  const viewId = useStudio((s) => s.viewId);
  const [brought, setBrought] = useState<{ count: number; remarks: string[] } | null>(null);
  const take = async (file: File) => {
    const made = await inTurn(
      () =>
        answer(
          api.POST("/api/projects/{project}/lights", {
            params: { path: { project } },
            ...form(file),
          }),
        ),
      (brought) => brought.project,
    );
    if (made) setBrought(made);
  };
  return (
    <Section title="Lights" aside="of this look">
      <div className="grid grid-cols-2 gap-1">
        <a
          className="button text-center"
          href={`/api/projects/${project}/looks/${lookId}/lights.zip?view=${viewId}`}
          download
        >
          Save as zip
        </a>
        <FileButton
          label="File of lights"
          endings={[".usda", ".usdc", ".usd", ".gltf", ".glb"]}
          onFiles={([file]) => file && void take(file)}
        >
          Bring in …
        </FileButton>
      </div>
      <p className="mt-1 text-ink-2">
        {brought === null
          ? "Sun, lamps and cameras as OpenUSD and glTF, an IES file for each kind of fixture, the recipe. Lamps, cameras and suns of such files come in as fixtures, views and looks."
          : [
              `${brought.count} lamps, cameras and suns came in; Undo takes them out again.`,
              ...brought.remarks,
            ].join(" ")}
      </p>
    </Section>
  );
}
