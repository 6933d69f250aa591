import { Progress } from "../ui/Progress";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { components } from "../api/schema";
import type { Sheet } from "../api/types";
import { takeFrom } from "../state/sheets";
import { set, useStudio } from "../state/store";
import { change } from "../state/queries";
import { pictureOf, shareDone, useSheet } from "./Mounted";

type Kind = components["schemas"]["NewSheet"]["kind"];

const COLUMNS = ["", "grid-cols-1", "grid-cols-2", "grid-cols-3"];

/** Small pictures made in the background; click one to take what it shows. */
export function ContactSheet({ kinds }: { kinds: readonly { kind: Kind; label: string }[] }) {
  const project = useStudio((s) => s.project?.id);
  const look = useStudio((s) => s.lookId);
  const view = useStudio((s) => s.viewId);
  const session = useStudio((s) => s.session);
  const [id, setId] = useState<string | null>(null);
  const sheet = useSheet(id);
  if (!project) return null;
  const begin = async (kind: Kind) => {
    const made = await change(() =>
      answer(
        api.POST("/api/projects/{project}/sheets", {
          params: { path: { project } },
          body: { look, view, kind, session },
        }),
      ),
    );
    if (!made) return;
    setId(made.id);
    set({ mounted: made.id });
  };
  const made = sheet.data;
  const ready = made?.pictures.filter((p) => p.round > 0).length ?? 0;
  return (
    <>
      <div className={`grid gap-1 ${COLUMNS[Math.min(kinds.length, 3)]}`}>
        {kinds.map((k) => (
          <button key={k.kind} className="button" onClick={() => void begin(k.kind)}>
            {k.label}
          </button>
        ))}
      </div>
      {made && (
        <>
          {made.running && <Progress label="Pictures made" share={shareDone(made)} />}
          <div className="mt-2 mb-1 flex justify-between text-small text-ink-2" role="status">
            <span data-testid="sheet-progress">
              {ready} of {made.pictures.length} pictures
            </span>
            {made.running ? (
              <button
                className="quiet underline"
                onClick={() =>
                  void api.POST("/api/sheets/{sheet}/stop", {
                    params: { path: { sheet: made.id } },
                  })
                }
              >
                Stop
              </button>
            ) : (
              ready > 0 && (
                <span className="flex gap-3">
                  <button className="quiet underline" onClick={() => set({ mounted: made.id })}>
                    Open large
                  </button>
                  <a className="underline" href={`/api/sheets/${made.id}/file.png`} download>
                    Save as one image
                  </a>
                  <a className="underline" href={`/api/sheets/${made.id}/file.pdf`} download>
                    PDF
                  </a>
                </span>
              )
            )}
          </div>
          {made.problem && <p className="text-sun-ink">{made.problem}</p>}
          <Prints sheet={made} />
        </>
      )}
    </>
  );
}

function Prints({ sheet }: { sheet: Sheet }) {
  return (
    <div className="grid grid-cols-2 gap-x-2 gap-y-1">
      {sheet.pictures.map((p, i) => {
        const src = pictureOf(sheet.id, p, i);
        return (
          <button
            key={`${i} ${p.caption}`}
            className="text-left hover:underline disabled:opacity-60"
            disabled={!src}
            onClick={() => void takeFrom(p.take)}
          >
            {src ? (
              <img src={src} alt={p.caption} className="aspect-video w-full object-cover" />
            ) : (
              <i className="block aspect-video w-full bg-mount/30" />
            )}
            <span className="block truncate text-small">{p.caption}</span>
          </button>
        );
      })}
    </div>
  );
}
