import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api } from "../api/client";
import { edit, say, useStudio } from "../state/studio";

/** Place and time zone by the name of a town; nothing is asked of the network. */
export function PlaceSearch() {
  const project = useStudio((s) => s.project);
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
  if (!project) return null;
  const ownZone = async () => {
    try {
      const query = { latitude: project.latitude_deg, longitude: project.longitude_deg };
      const { time_zone } = await answer(api.GET("/api/zone", { params: { query } }));
      await edit("project", project.id, { time_zone }, `Time zone ${time_zone}`);
    } catch (error) {
      say(error);
    }
  };
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
        <ul
          className="max-h-[132px] overflow-y-auto border-x border-b border-rule"
          aria-label="Towns"
        >
          {found.data.length === 0 && <li className="px-2 text-ink-2">No town of this name.</li>}
          {found.data.map((t) => (
            <li key={`${t.name}${t.latitude_deg}`}>
              <button
                className="flex w-full justify-between gap-2 px-2 text-left hover:bg-chosen hover:text-on-chosen"
                onClick={() => {
                  const { latitude_deg, longitude_deg, time_zone } = t;
                  void edit(
                    "project",
                    project.id,
                    { latitude_deg, longitude_deg, time_zone },
                    `Move to ${t.name}`,
                  );
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
      )}
      {found.isFetching && <p className="text-ink-2">Looking through the towns …</p>}
      <button className="quiet mt-1 underline" onClick={() => void ownZone()}>
        Time zone of these coordinates
      </button>
    </>
  );
}
