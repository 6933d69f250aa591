import { RadioGroup } from "radix-ui";
import { useVocabulary } from "../state/vocabulary";
import type { Look } from "../api/types";
import { editLook } from "../state/edits";
import { lookRow } from "../state/look";
import { useStudio } from "../state/store";
import { Tip } from "../ui/Tip";

type Sky = Look["sky"];

const TILE = 34;
/** What each of the fifteen standard skies is. */
const CIE = [
  "overcast, steeply graded",
  "overcast, steeply graded, slightly brighter towards the sun",
  "overcast, moderately graded",
  "overcast, moderately graded, slightly brighter towards the sun",
  "even",
  "partly cloudy, slightly brighter towards the sun",
  "partly cloudy, bright around the sun",
  "partly cloudy, a distinct corona",
  "partly cloudy, the sun obscured",
  "partly cloudy, graded, bright around the sun",
  "white-blue, a distinct corona",
  "clear, clean air",
  "clear, polluted air",
  "cloudless, turbid, a broad corona",
  "white-blue, turbid, a broad corona",
];

/** The dome of one of the skies this look could have. */
function Tile({ at, url }: { at: number; url: string }) {
  return (
    <i
      className="block rounded-full"
      style={{
        width: TILE,
        height: TILE,
        backgroundImage: `url(${url})`,
        backgroundSize: `${TILE * 17}px ${TILE}px`,
        backgroundPosition: `${-TILE * at}px 0`,
      }}
    />
  );
}

/** Kind of sky, and which of the fifteen CIE skies, chosen by their pictures. */
export function SkyChoice({ sky }: { sky: Sky }) {
  const project = useStudio((s) => s.project?.id ?? "");
  const lookId = useStudio((s) => s.lookId);
  // Asked anew when what the skies depend on is saved, not while it is dragged.
  const saved = useStudio((s) => {
    const look = lookRow(s)?.settings;
    if (!look) return "";
    const { haze, ground, graded, horizon_deg, horizon_blur_deg, colourful, town_cd_m2 } = look.sky;
    const air = [haze, ground, horizon_deg, horizon_blur_deg, colourful, town_cd_m2];
    return JSON.stringify([look.day, look.minutes, look.sun, air, graded]);
  });
  const url = `/api/projects/${project}/looks/${lookId}/skies.png?of=${encodeURIComponent(saved)}`;
  const kinds = useVocabulary().skies;
  // Where in the row of pictures each is; a picture of the shelf has its own.
  const at: Partial<Record<Sky["model"], number>> = { clear: 0, cie: sky.cie_type + 1, graded: 1 };
  return (
    <>
      <RadioGroup.Root
        className="grid grid-cols-4 gap-1"
        aria-label="Kind of sky"
        value={sky.model}
        onValueChange={(model) =>
          void editLook({ sky: { model: model as Sky["model"] } }, "Kind of sky")
        }
      >
        {kinds.map((k) => (
          <RadioGroup.Item
            key={k.id}
            value={k.id}
            className={`flex flex-col items-center gap-[2px] border-b-2 py-1 ${k.id === sky.model ? "border-ink font-[650]" : "border-transparent text-ink-2 hover:text-ink"}`}
          >
            {at[k.id] !== undefined ? (
              <Tile at={at[k.id] ?? 0} url={url} />
            ) : sky.hdri.asset ? (
              <img
                src={`/api/skies/${sky.hdri.asset}/thumbnail`}
                alt=""
                className="h-[34px] w-[34px] rounded-full object-cover"
              />
            ) : (
              <i className="block h-[34px] w-[34px] rounded-full border border-dashed border-rule" />
            )}
            {k.label}
          </RadioGroup.Item>
        ))}
      </RadioGroup.Root>
      {sky.model === "cie" && (
        <RadioGroup.Root
          className="mt-1 grid grid-cols-5 gap-1"
          aria-label="CIE sky"
          value={String(sky.cie_type)}
          onValueChange={(type) =>
            void editLook({ sky: { cie_type: Number(type) } }, `CIE sky ${type}`)
          }
        >
          {CIE.map((words, i) => (
            <Tip key={words} text={`Type ${i + 1}: ${words}`}>
              <RadioGroup.Item
                value={String(i + 1)}
                aria-label={`Type ${i + 1}: ${words}`}
                className={`flex flex-col items-center text-small ${sky.cie_type === i + 1 ? "font-[650] underline" : "text-ink-2"}`}
              >
                <Tile at={i + 2} url={url} />
                {i + 1}
              </RadioGroup.Item>
            </Tip>
          ))}
        </RadioGroup.Root>
      )}
    </>
  );
}
