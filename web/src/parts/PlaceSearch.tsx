import { answer, api } from "../api/client";
import { edit } from "../state/edits";
import { useStudio } from "../state/store";
import { TownSearch } from "./TownSearch";

/** Place and time zone of the project by the name of a town, or the zone of its coordinates. */
export function PlaceSearch() {
  const project = useStudio((s) => s.project);
  if (!project) return null;
  const ownZone = async () => {
    const query = { latitude: project.latitude_deg, longitude: project.longitude_deg };
    const { time_zone } = await answer(api.GET("/api/zone", { params: { query } }));
    await edit("project", project.id, { time_zone }, `Time zone ${time_zone}`);
  };
  return (
    <>
      <TownSearch
        onTake={({ latitude_deg, longitude_deg, time_zone, name }) =>
          void edit(
            "project",
            project.id,
            { latitude_deg, longitude_deg, time_zone },
            `Move to ${name}`,
          )
        }
      />
      <button className="quiet mt-1 underline" onClick={() => void ownZone()}>
        Time zone of these coordinates
      </button>
    </>
  );
}
