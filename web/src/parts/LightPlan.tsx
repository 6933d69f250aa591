import { useQuery } from "@tanstack/react-query";
import { ask } from "../state/asking";
import { set, useLightPlan, type LightKind, type LightOnPlan } from "../state/lightPlan";
import { lookRow, useView } from "../state/look";
import { set as setStudio, useStudio } from "../state/store";
import { Select } from "../ui/Select";
import { type Lie, path } from "./SheetMarks";
import { lux } from "./words";
import { DialLine } from "./DialLine";

const KINDS: { value: LightKind | ""; label: string }[] = [
  { value: "", label: "No light on the plan" },
  { value: "lamps", label: "Lux of the lamps" },
  { value: "daylight", label: "Lux of daylight" },
  { value: "all", label: "Lux of all light" },
  { value: "daylight factor", label: "Daylight factor, overcast" },
];

/** The light of the room, worked out anew when what makes it was changed. */
function useLight() {
  const { of, height, at } = useLightPlan();
  const view = useView();
  const look = useStudio((s) => lookRow(s)?.settings);
  const sources = useStudio((s) => s.project?.sources);
  const edits = useStudio((s) => s.project?.models[0]?.settings.edits);
  const ready = useStudio((s) => !!s.frame && !s.frame.empty);
  const place = at ?? (view?.position as [number, number, number] | undefined);
  return useQuery({
    queryKey: [
      "light on plan",
      of,
      height,
      place,
      look && [look.mix, look.sun, look.sky, look.day, look.minutes, look.dress, look.clay],
      sources?.map((s) => s.settings),
      edits,
    ],
    queryFn: () =>
      ask("light on plan", { of: of ?? "all", at: place ?? [0, 0, 0], height_m: height }),
    enabled: of !== null && ready && place !== undefined,
    staleTime: Infinity,
    retry: false,
    placeholderData: (old) => old,
  });
}

const said = (v: number, unit: LightOnPlan["unit"]) =>
  unit === "%" ? `${v < 10 ? v.toFixed(1) : v.toFixed(0)} %` : lux(v);

/** Which light lies over the plan, and what sums it up. */
export function LightPlanControls() {
  const { of, height, at } = useLightPlan();
  const picking = useStudio((s) => s.picking);
  const { data, error, isFetching } = useLight();
  const project = useStudio((s) => s.project?.id);
  const lookId = useStudio((s) => s.lookId);
  const session = useStudio((s) => s.session);
  const eye = useView()?.position;
  const place = at ?? eye;
  return (
    <div className="py-1">
      <Select
        className="w-full"
        label="Light on the plan"
        value={of ?? ""}
        options={KINDS}
        onPick={(kind) => set({ of: (kind || null) as LightKind | null })}
      />
      {of && (
        <>
          <DialLine
            of="light_plan"
            name="height_m"
            value={height}
            onHold={(height) => set({ height })}
            onRelease={(height) => set({ height })}
          />
          {error ? (
            <p className="text-sun-ink" role="note">
              {error.message}
            </p>
          ) : (
            data && (
              <p data-testid="light-on-plan" className={isFetching ? "text-ink-2" : ""}>
                <b>{said(data.average, data.unit)}</b> on average, {said(data.least, data.unit)} to{" "}
                {said(data.most, data.unit)}, uniformity {data.uniformity.toFixed(2)}
                {isFetching && " …"}
              </p>
            )
          )}
          {!data && isFetching && <p className="text-ink-2">Working out the light …</p>}
          {data && !error && place && (
            <a
              className="mr-3 underline"
              download
              href={`/api/projects/${project}/looks/${lookId}/light-plan.pdf?of=${of}&session=${session}&x=${place[0]}&y=${place[1]}&z=${place[2]}&height=${height}`}
            >
              PDF
            </a>
          )}
          <button
            className="quiet underline"
            aria-pressed={picking === "room"}
            onClick={() => setStudio({ picking: "room", placing: null })}
          >
            {at ? "Another room" : "A room other than the camera’s"}
          </button>
        </>
      )}
    </div>
  );
}

/** Cells by their light, and lines of equal light with their values. */
export function LightOverPlan({ lie, unit }: { lie: Lie; unit: number }) {
  const of = useLightPlan((s) => s.of);
  const { data, error } = useLight();
  if (!of || !data || error) return null;
  const [x0, y0] = data.low;
  const wide = (data.high[0] - x0) / data.columns;
  const deep = (data.high[1] - y0) / data.rows;
  const top = Math.max(data.most, 1e-9);
  // Each value is written once, on the longest of its lines.
  const longest = new Map<number, number>();
  data.lines.forEach((l, n) => {
    const best = data.lines[longest.get(l.value) ?? -1];
    if (l.points.length > (best?.points.length ?? 5)) longest.set(l.value, n);
  });
  return (
    <g data-testid="light-cells" className="pointer-events-none">
      {data.values.map((v, n) => {
        if (v === null) return null;
        const x = x0 + (n % data.columns) * wide;
        const y = y0 + (Math.floor(n / data.columns) + 1) * deep;
        // Twice the light is one step: as the eye has it, over seven stops.
        const share = Math.min(Math.max(1 + Math.log2(Math.max(v, 1e-9) / top) / 7, 0), 1);
        return (
          <rect
            key={n}
            x={x}
            y={-y}
            width={wide * 1.02}
            height={deep * 1.02}
            fill="var(--sun)"
            fillOpacity={0.75 * share}
          />
        );
      })}
      {data.lines.map((l, n) => {
        const middle = l.points[Math.floor(l.points.length / 2)];
        return (
          <g key={n}>
            <path
              d={path(
                l.points.map(([x, y]) => lie.flat([x, y, 0])),
                false,
              )}
              fill="none"
              stroke="var(--ink)"
              strokeWidth={unit * 0.9}
            />
            {middle && longest.get(l.value) === n && (
              <text
                x={middle[0]}
                y={-middle[1]}
                fontSize={unit * 9}
                textAnchor="middle"
                className="fill-ink"
                stroke="var(--sheet)"
                strokeWidth={unit * 2.5}
                paintOrder="stroke"
              >
                {data.unit === "%" ? `${l.value} %` : l.value}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}
