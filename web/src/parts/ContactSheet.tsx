import { Progress } from "../ui/Progress";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { Sheet } from "../api/types";
import { takeFrom } from "../state/sheets";
import { set, useStudio } from "../state/store";
import { change } from "../state/queries";
import { useSheet } from "./Mounted";

type Kind = "day" | "year" | "kept" | "looks" | "views" | "all";

/** Small pictures made in the background; click one to take what it shows. */
export function ContactSheet({ kinds }: { kinds: readonly { kind: Kind; label: string }[] }) {
  const project = useStudio((s) => s.project?.id);
  const look = useStudio((s) => s.lookId);
  const view = useStudio((s) => s.viewId);
  const [id, setId] = useState<string | null>(null);
  const sheet = useSheet(id);
  if (!project) return null;
  const begin = async (kind: Kind) => {
    const made = await change(() =>
      answer(
        api.POST("/api/projects/{project}/sheets", {
          params: { path: { project } },
          body: { look, view, kind },
        }),
      ),
    );
    if (!made) return;
    setId(made.id);
    set({ mounted: made.id });
  };
  const made = sheet.data;
  const ready = made?.pictures.filter((p) => p.ready).length ?? 0;
  return (
    <>
      <div className={`grid gap-1 ${kinds.length === 3 ? "grid-cols-3" : "grid-cols-2"}`}>
        {kinds.map((k) => (
          <button key={k.kind} className="button" onClick={() => void begin(k.kind)}>
            {k.label}
          </button>
        ))}
      </div>
      {made && (
        <>
          {made.running && (
            <Progress label="Pictures made" share={ready / Math.max(made.pictures.length, 1)} />
          )}
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
      {sheet.pictures.map((p, i) => (
        <button
          key={p.caption}
          className="text-left hover:underline disabled:opacity-60"
          disabled={!p.ready}
          onClick={() => takeFrom(p.take)}
        >
          {p.ready ? (
            <img
              src={`/api/sheets/${sheet.id}/pictures/${i}`}
              alt={p.caption}
              className="aspect-video w-full object-cover"
            />
          ) : (
            <i className="block aspect-video w-full bg-mount/30" />
          )}
          <span className="block truncate text-small">{p.caption}</span>
        </button>
      ))}
    </div>
  );
}
