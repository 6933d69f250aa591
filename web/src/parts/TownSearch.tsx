import { Scroll } from "../ui/Scroll";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api } from "../api/client";
import type { Town } from "../state/home";

/** A town by its name; nothing is asked of the network. */
export function TownSearch({ onTake }: { onTake: (town: Town) => void }) {
  const [typed, setTyped] = useState("");
  const [name, setName] = useState("");
  useEffect(() => {
    const timer = window.setTimeout(() => setName(typed.trim()), 250);
    return () => window.clearTimeout(timer);
  }, [typed]);
  const found = useQuery({
    queryKey: ["places", name],
    queryFn: () => answer(api.GET("/api/places", { params: { query: { name } } })),
    enabled: name.length > 1,
  });
  return (
    <>
      <input
        className="entry w-full"
        aria-label="Find a town"
        placeholder="Find a town …"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
      />
      {name.length > 1 && found.data && (
        <Scroll className="max-h-[132px] border-x border-b border-rule">
          <ul aria-label="Towns">
            {found.data.length === 0 && <li className="px-2 text-ink-2">No town of this name.</li>}
            {found.data.map((t) => (
              <li key={`${t.name}${t.latitude_deg}`}>
                <button
                  type="button"
                  className="flex w-full justify-between gap-2 px-2 text-left hover:bg-chosen hover:text-on-chosen"
                  onClick={() => {
                    onTake(t);
                    setTyped("");
                    setName("");
                  }}
                >
                  <span className="truncate">{t.name}</span>
                  <span className="truncate">{t.country}</span>
                </button>
              </li>
            ))}
          </ul>
        </Scroll>
      )}
      {found.isFetching && <p className="text-ink-2">Looking through the towns …</p>}
    </>
  );
}
