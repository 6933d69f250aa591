import type { Look } from "../api/types";
import { editLook } from "../state/edits";
import { useLookOf } from "../state/look";
import { useStudio } from "../state/store";
import { clock, date, degrees } from "./words";

type Kept = Look["kept_suns"][number];

const said = (k: Kept) =>
  k.mode === "free"
    ? `azimuth ${degrees(k.azimuth_deg)}, elevation ${degrees(k.elevation_deg)}`
    : `${date(k.day)}, ${clock(k.minutes)}`;

/** Positions of the sun that were found and kept; a click goes back to one. */
export function KeptSuns() {
  const look = useLookOf("kept_suns", "day", "minutes", "sun");
  const facts = useStudio((s) => s.facts);
  if (!look) return null;
  const { kept_suns: kept } = look;
  const save = (kept_suns: Kept[], label: string) => void editLook({ kept_suns } as never, label);
  const keep = () => {
    if (!facts) return;
    const { azimuth_deg, elevation_deg } = facts;
    const { day, minutes } = look;
    save(
      [...kept, { mode: look.sun.mode, day, minutes, azimuth_deg, elevation_deg }],
      "Keep this sun",
    );
  };
  const go = (k: Kept) =>
    void editLook(
      k.mode === "free"
        ? { sun: { mode: "free", azimuth_deg: k.azimuth_deg, elevation_deg: k.elevation_deg } }
        : { day: k.day, minutes: k.minutes, sun: { mode: "time" } },
      "Take a kept sun",
    );
  return (
    <div className="mt-1">
      <button className="quiet underline" disabled={!facts || kept.length >= 24} onClick={keep}>
        Keep this sun
      </button>
      <ul aria-label="Kept suns">
        {kept.map((k, i) => (
          <li key={i} className="flex justify-between gap-2">
            <button className="hover:underline" onClick={() => go(k)}>
              {said(k)}
            </button>
            <button
              className="quiet text-small underline"
              aria-label={`Remove ${said(k)}`}
              onClick={() =>
                save(
                  kept.filter((_, n) => n !== i),
                  "Remove a kept sun",
                )
              }
            >
              remove
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
