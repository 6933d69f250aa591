import { ColourField } from "../ui/ColourField";
import { Row } from "../ui/Row";
import { useQuery } from "@tanstack/react-query";
import { answer, api, form } from "../api/client";
import type { Look, Schemas, SkyCard } from "../api/types";
import { editLook, inTurn } from "../state/edits";
import { hold, release } from "../state/held";
import { useStudio } from "../state/store";
import type { AmountKind } from "../ui/Amount";
import { useVocabulary } from "../state/vocabulary";
import { DialLine } from "./DialLine";
import { SkyParts } from "./SkyParts";
import { degrees, lux } from "./words";
import { Tick } from "../ui/Tick";
import { FileButton } from "../ui/FileButton";
import { useChange } from "../state/queries";
import { Tip } from "../ui/Tip";

type Sky = Look["sky"];

const kelvin = (v: number) => `${v.toFixed(0)} K`;

/** A sky set by hand: zenith, horizon and how much light it gives. */
export function GradedSky({ graded }: { graded: Sky["graded"] }) {
  const dials = useVocabulary().numbers.graded ?? {};
  const line = (
    key: Exclude<keyof Sky["graded"], `${string}_colour`>,
    given: Partial<AmountKind> = {},
  ) => (
    <DialLine
      of="graded"
      name={key}
      value={graded[key]}
      {...given}
      onHold={(v) => hold({ look: { sky: { graded: { [key]: v } } } }, false)}
      onRelease={() => void release(dials[key]?.label ?? "")}
    />
  );
  const hue = (key: "zenith_colour" | "horizon_colour", label: string) => (
    <label className="grid grid-cols-[var(--label)_1fr_64px] items-center gap-2 py-[3px]">
      <span className="text-ink-2">{label}</span>
      <ColourField
        wide
        value={graded[key] ?? "#ffffff"}
        onHold={(hue) => hold({ look: { sky: { graded: { [key]: hue } } } }, false)}
        onRelease={() => void release(`${label} of the sky`)}
      />
      <button
        className="quiet text-right text-small underline"
        disabled={graded[key] === null}
        onClick={() =>
          void editLook({ sky: { graded: { [key]: null } } } as never, `${label} by kelvin`)
        }
      >
        {graded[key] === null ? "by kelvin" : "back to K"}
      </button>
    </label>
  );
  return (
    <>
      {line("lux", { write: lux })}
      {line("zenith_kelvin")}
      {hue("zenith_colour", "Zenith colour")}
      {line("horizon_kelvin")}
      {hue("horizon_colour", "Horizon colour")}
      {line("horizon_brightness")}
      {line("spread")}
    </>
  );
}

/** Sky pictures: the shelf, how the chosen one is turned and graded, and its sun. */
export function PictureSky({ hdri }: { hdri: Look["sky"]["hdri"] }) {
  const shelf = useQuery({
    queryKey: ["skies"],
    queryFn: () => answer(api.GET("/api/skies")),
    staleTime: Infinity,
  });
  const chosen = shelf.data?.find((s) => s.asset === hdri.asset);
  const choose = (sky: SkyCard) =>
    editLook(
      { sky: { hdri: { asset: sky.asset, name: sky.name, without_sun: false, lux: null } } },
      sky.name,
    );
  const bring = useChange((file: File) => answer(api.POST("/api/skies", form(file))), {
    stale: "skies",
    then: choose,
  });
  const dials = useVocabulary().numbers.hdri ?? {};
  const line = (key: "rotation_deg" | "tilt_deg" | "contrast" | "saturation") => (
    <DialLine
      of="hdri"
      name={key}
      value={hdri[key]}
      onHold={(v) => hold({ look: { sky: { hdri: { [key]: v } } } }, false)}
      onRelease={() => void release(dials[key]?.label ?? "")}
    />
  );
  return (
    <>
      <div className="mb-1 grid grid-cols-2 gap-1">
        {shelf.data?.map((s) => (
          <button
            key={s.asset}
            aria-pressed={s.asset === hdri.asset}
            className={`text-left ${s.asset === hdri.asset ? "font-[650]" : "text-ink-2 hover:text-ink"}`}
            onClick={() => void choose(s)}
          >
            <img
              src={`/api/skies/${s.asset}/thumbnail`}
              alt=""
              className={`aspect-[2/1] w-full object-cover ${s.asset === hdri.asset ? "outline-2 outline-sun" : ""}`}
            />
            <span className="block truncate text-small">{s.name}</span>
          </button>
        ))}
        <FileButton
          label="Sky picture file"
          endings={[".exr", ".hdr", ".pfm", ".jpg", ".jpeg", ".png", ".tif", ".tiff"]}
          tip="EXR or Radiance HDR, latitude by longitude"
          className="button aspect-[2/1]"
          onFiles={([file]) => file && bring.mutate(file)}
        >
          Add a picture
        </FileButton>
      </div>
      {chosen && (
        <>
          <p className="text-ink-2" data-testid="sky-card">
            {lux(chosen.lux)} on the ground, {kelvin(chosen.kelvin)}, {chosen.stops} stops
          </p>
          {chosen.remarks.map((r) => (
            <p key={r} className="text-sun-ink">
              {r}
            </p>
          ))}
          <SunOfPicture card={chosen} hdri={hdri} />
        </>
      )}
      {line("rotation_deg")}
      {line("tilt_deg")}
      {line("contrast")}
      {line("saturation")}
      <Row label="Tint">
        <ColourField
          wide
          value={hdri.tint}
          onHold={(tint) => hold({ look: { sky: { hdri: { tint } } } }, false)}
          onRelease={() => void release("Tint of the sky")}
        />
      </Row>
      <label className="flex items-center gap-2 py-[3px]">
        <Tick
          checked={hdri.mirror}
          onChange={(on) => void editLook({ sky: { hdri: { mirror: on } } }, "Mirror")}
        />
        Left and right swapped
      </label>
      <DialLine
        of="hdri"
        name="lux"
        value={hdri.lux ?? chosen?.lux ?? 10_000}
        normal={chosen?.lux ?? 10_000}
        write={lux}
        onHold={(v) => hold({ look: { sky: { hdri: { lux: v } } } }, false)}
        onRelease={() => void release("Calibrate the sky")}
      />
      <SkyParts hdri={hdri} shelf={shelf.data ?? []} />
    </>
  );
}

/** The sun in the picture: swap it for that of the look, or bring the two into line, either way. */
function SunOfPicture({ card, hdri }: { card: SkyCard; hdri: Look["sky"]["hdri"] }) {
  const lookId = useStudio((s) => s.lookId);
  const project = useStudio((s) => s.project?.id ?? "");
  if (!card.sun) return <p className="text-ink-2">No sun stands in this picture.</p>;
  const act = async (what: Schemas["PictureSun"]["act"]) => {
    const params = { path: { project, look: lookId } };
    await inTurn(() =>
      answer(
        api.POST("/api/projects/{project}/looks/{look}/picture-sun", {
          params,
          body: { act: what },
        }),
      ),
    );
  };
  return (
    <div className="mb-1" role="group" aria-label="Sun of the picture">
      <p className="text-ink-2">
        Its sun: elevation {degrees(card.sun.elevation_deg)}, {lux(card.sun.lux)} before calibration
      </p>
      <div className="my-1 grid grid-cols-[1.2fr_1.05fr_1fr] gap-1">
        <Tip text="Take its light out of the picture and give it to the sun of the look">
          <button
            className="button px-1"
            aria-pressed={hdri.without_sun}
            onClick={() => void act("swap")}
          >
            {hdri.without_sun ? "Sun back in" : "Swap the sun"}
          </button>
        </Tip>
        <Tip text="Turn the picture so that its sun stands where the sun of the look does">
          <button className="button px-1" onClick={() => void act("turn picture")}>
            Turn picture
          </button>
        </Tip>
        <Tip text="Put the sun of the look where the sun of the picture stands">
          <button className="button px-1" onClick={() => void act("move sun")}>
            Move sun
          </button>
        </Tip>
      </div>
    </div>
  );
}
