import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { components } from "../api/schema";
import { queries, useChange } from "../state/queries";
import { editLook } from "../state/edits";

type Kept = components["schemas"]["Kept"];

/** Finishes of your own: keep this one under a name, take one that was kept. */
export function KeptFinishes({ look }: { look: string }) {
  const [name, setName] = useState("");
  const shelf = useQuery({
    queryKey: ["finishes"],
    queryFn: () => answer(api.GET("/api/finishes")),
    staleTime: Infinity,
  });
  const show = (kept: Kept[]) => queries.setQueryData(["finishes"], kept);
  const keep = useChange(() => answer(api.POST("/api/finishes", { body: { look, name } })), {
    then: (kept) => {
      show(kept);
      setName("");
    },
  });
  const remove = useChange(
    (finish: string) =>
      answer(api.DELETE("/api/finishes/{finish}", { params: { path: { finish } } })),
    { then: show },
  );
  return (
    <div className="mt-2">
      <ul aria-label="Kept finishes">
        {shelf.data?.map((k) => (
          <li key={k.id} className="flex items-baseline justify-between gap-2 py-[1px]">
            <button
              className="min-w-0 truncate text-left underline"
              onClick={() => void editLook(k.settings, `Finish “${k.name}”`)}
            >
              {k.name}
            </button>
            <button
              className="quiet"
              aria-label={`Remove the finish ${k.name}`}
              onClick={() => remove.mutate(k.id)}
            >
              Remove
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-1 flex gap-1"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) keep.mutate();
        }}
      >
        <input
          className="entry min-w-0 flex-1"
          aria-label="Name for this finish"
          placeholder="Name for this finish"
          maxLength={60}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button className="button" disabled={!name.trim()}>
          Keep
        </button>
      </form>
    </div>
  );
}
