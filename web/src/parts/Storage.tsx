import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { Section } from "../ui/Section";
import { useChange, queries } from "../state/queries";
import { size } from "./words";

/** Below this much free space the artist is warned, in bytes. */
const SCARCE = 2e9;

/** What all projects take on disk, and letting go of what nothing uses. */
export function Storage({ stills }: { stills: number }) {
  const known = useQuery({
    queryKey: ["storage", stills],
    queryFn: () => answer(api.GET("/api/storage")),
    placeholderData: (old) => old,
  });
  const sweep = useChange(() => answer(api.POST("/api/storage/sweep")), {
    then: (after) => queries.setQueryData(["storage", stills], after),
  });
  if (!known.data) return null;
  const freed = sweep.data ? (sweep.data.freed ?? 0) : null;
  const { kinds, unnamed, free } = known.data;
  return (
    <Section title="Storage" aside="of all projects">
      <dl className="grid grid-cols-[1fr_auto] gap-y-[2px]" data-testid="storage">
        {kinds.map((k) => (
          <div key={k.kind} className="contents">
            <dt className="text-ink-2">{k.kind}</dt>
            <dd className="text-right">{size(k.bytes)}</dd>
          </div>
        ))}
        <dt className="text-ink-2">free on the disk</dt>
        <dd className={`text-right ${free < SCARCE ? "text-sun-ink" : ""}`}>{size(free)}</dd>
      </dl>
      {unnamed > 0 && (
        <button className="button mt-2" onClick={() => sweep.mutate()}>
          Let go of {size(unnamed)} nothing uses
        </button>
      )}
      {freed !== null && (
        <p className="mt-1 text-ink-2">
          {freed > 0 ? `${size(freed)} freed.` : "Nothing was old enough; try again in an hour."}
        </p>
      )}
    </Section>
  );
}
