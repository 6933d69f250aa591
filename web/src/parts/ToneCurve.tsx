import type { FrameHead } from "../api/types";
import { useStudio } from "../state/store";
import { signed } from "./words";

const WIDTH = 244;
const HEIGHT = 96;

/** What the tone does to greys, over where the light of the picture lies: stops from middle grey. */
export function ToneCurve() {
  const tone = useStudio((s) => s.frame?.tone);
  if (!tone) return null;
  const { darkest, brightest, shown, burnt, black } = tone;
  const across = (stops: number) => ((stops - darkest) / (brightest - darkest)) * WIDTH;
  const line = shown.map((v, i) => {
    const x = (i / (shown.length - 1)) * WIDTH;
    return `${x.toFixed(1)},${((1 - v) * HEIGHT).toFixed(1)}`;
  });
  const marks = [-6, -4, -2, 0, 2, 4, 6];
  return (
    <figure className="mt-2">
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT + 14}`}
        className="w-full"
        role="img"
        aria-label={words(tone)}
        data-testid="tone-curve"
      >
        <polygon points={hill(tone.histogram)} className="fill-ink-3/25" />
        {marks.map((m) => (
          <g key={m}>
            <line
              x1={across(m)}
              x2={across(m)}
              y1={m === 0 ? 0 : HEIGHT - 4}
              y2={HEIGHT}
              className={m === 0 ? "stroke-ink-3" : "stroke-rule"}
              strokeDasharray={m === 0 ? "2 2" : undefined}
            />
            <text
              x={across(m)}
              y={HEIGHT + 12}
              textAnchor="middle"
              className="fill-ink-2 text-fine"
            >
              {m === 0 ? "grey" : signed(m, 0)}
            </text>
          </g>
        ))}
        {black !== null && (
          <line x1={across(black)} x2={across(black)} y1="0" y2={HEIGHT} className="stroke-ink" />
        )}
        {burnt !== null && (
          <line
            x1={across(burnt)}
            x2={across(burnt)}
            y1="0"
            y2={HEIGHT}
            className="stroke-[var(--sun)]"
            strokeWidth="1.5"
          />
        )}
        <line x1="0" x2={WIDTH} y1={HEIGHT} y2={HEIGHT} className="stroke-rule" />
        <polyline
          points={line.join(" ")}
          fill="none"
          className="stroke-ink"
          strokeWidth="1.6"
          strokeLinejoin="round"
        />
      </svg>
      <figcaption className="text-ink-2">{words(tone)}</figcaption>
    </figure>
  );
}

type Tone = FrameHead["tone"];

const words = ({ burnt }: Tone) =>
  burnt === null
    ? "Nothing this bright clips."
    : `Greys clip at ${signed(burnt)} stops from middle grey.`;

/** Outline of a histogram; small amounts are drawn larger than they are, to be seen at all. */
function hill(histogram: number[]): string {
  const top = Math.max(...histogram, 1);
  const points = histogram.map((v, i) => {
    const x = ((i + 0.5) / histogram.length) * WIDTH;
    return `${x.toFixed(1)},${(HEIGHT * (1 - 0.85 * Math.sqrt(v / top))).toFixed(1)}`;
  });
  return `0,${HEIGHT} ${points.join(" ")} ${WIDTH},${HEIGHT}`;
}
