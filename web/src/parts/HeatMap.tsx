import { memo } from "react";
import { useHunt } from "../state/hunt";
import { editLook } from "../state/edits";
import { set, useStudio } from "../state/store";
import { degrees, percent } from "./words";

type Project = (azimuth: number, elevation: number) => [number, number];

/** The pattern map on the sun chart: a stronger dot is a better place for the sun. */
export const HeatMap = memo(function HeatMap({ project }: { project: Project }) {
  const { map, score, realOnly, step, aim } = useHunt();
  const year = useStudio((s) => s.project?.id);
  if (!year) return null;
  const values = map && score ? map[score] : [];
  const top = Math.max(...values, 1e-9);
  const best = values.indexOf(top);
  const go = (azimuth_deg: number, elevation_deg: number) => {
    set({ selected: "sun" });
    void editLook({ sun: { mode: "free", azimuth_deg, elevation_deg } }, "Take a sun position");
  };
  return (
    <g>
      {map &&
        values.map((value, i) => {
          const azimuth = map.azimuth_deg[i] ?? 0;
          const elevation = map.elevation_deg[i] ?? 0;
          if (realOnly && !map.real[i]) return null;
          const [x, y] = project(azimuth, elevation);
          // The chart stretches towards the horizon; dots grow with it so that they keep touching.
          const size =
            (step / 90) * 58 * (1 / Math.cos(((90 - elevation) / 2) * (Math.PI / 180)) ** 2);
          return (
            <circle
              key={i}
              cx={x}
              cy={y}
              r={size}
              fill="var(--sun)"
              fillOpacity={0.04 + 0.86 * (value / top) ** 1.5}
              stroke={i === best ? "var(--ink)" : "none"}
              strokeWidth="1.2"
              className="cursor-pointer hover:stroke-ink"
              onClick={() => go(azimuth, elevation)}
            >
              <title>{`azimuth ${degrees(azimuth)}, elevation ${degrees(elevation)}: ${percent(map.share[i] ?? 0)} of the picture in sun`}</title>
            </circle>
          );
        })}
      {aim?.blocked.map(([a, e], i) => {
        const [x, y] = project(a, e);
        return <circle key={`b${i}`} cx={x} cy={y} r="0.9" fill="var(--ink-3)" opacity="0.5" />;
      })}
      {aim?.open.map(([a, e], i) => {
        const [x, y] = project(a, e);
        return (
          <circle
            key={`o${i}`}
            cx={x}
            cy={y}
            r="1.8"
            fill="var(--sun)"
            className="cursor-pointer"
            onClick={() => go(a, e)}
          />
        );
      })}
    </g>
  );
});
