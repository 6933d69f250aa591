import { useState } from "react";
import { Section } from "../ui/Section";

/** Documents that go with the pictures: light schedule, sun table, client sheet, look book. */
export function Documents(p: { project: string; look: string; finished: boolean }) {
  const { project, look } = p;
  const [note, setNote] = useState("");
  const of = `/api/projects/${project}/looks/${look}`;
  return (
    <Section title="Documents" aside="of this look">
      <Row title="Light schedule" csv={`${of}/schedule.csv`} pdf={`${of}/schedule.pdf`} />
      <Row title="Sun table" csv={`${of}/sun-table.csv`} pdf={`${of}/sun-table.pdf`} />
      <Row
        title="Client sheet"
        pdf={`/api/projects/${project}/client-sheet.pdf?note=${encodeURIComponent(note)}`}
      />
      <Row
        title="Look book"
        html={
          p.finished
            ? `/api/projects/${project}/look-book.html?note=${encodeURIComponent(note)}`
            : undefined
        }
        wants="a finished still"
      />
      <input
        className="entry mt-1 w-full"
        placeholder="Words on sheet and book"
        aria-label="Words on client sheet and look book"
        value={note}
        onChange={(e) => setNote(e.target.value)}
      />
      <p className="mt-1 text-ink-2">
        Fixtures with counts, kelvin, lumen and watts; the sun of the year; all finished stills, on
        paper or as one page to look at that compares those of a view.
      </p>
    </Section>
  );
}

function Row(p: { title: string; csv?: string; pdf?: string; html?: string; wants?: string }) {
  const files = [
    ["CSV", p.csv],
    ["PDF", p.pdf],
    ["HTML", p.html],
  ] as const;
  return (
    <div className="flex items-baseline justify-between py-[2px]">
      <span>{p.title}</span>
      <span className="flex gap-3">
        {!files.some(([, href]) => href) && <span className="text-ink-2">needs {p.wants}</span>}
        {files.map(
          ([kind, href]) =>
            href && (
              <a key={kind} className="underline" href={href} download>
                {kind}
              </a>
            ),
        )}
      </span>
    </div>
  );
}
