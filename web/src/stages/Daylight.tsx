import { memo } from "react";
import { Switch } from "../ui/Switch";
import { ColourField } from "../ui/ColourField";
import type { Look } from "../api/types";
import { Air } from "../parts/Air";
import { DialLine } from "../parts/DialLine";
import { Level } from "../parts/Level";
import { ContactSheet } from "../parts/ContactSheet";
import { AimTheSun, Hunt } from "../parts/Hunt";
import { Choice } from "../ui/Choice";
import { KeptSuns } from "../parts/KeptSuns";
import { Openings } from "../parts/Openings";
import { Section } from "../ui/Section";
import { editLook } from "../state/edits";
import { hold, release } from "../state/held";
import { useLookOf } from "../state/look";
import { useStudio } from "../state/store";
import { Horizon } from "../parts/Horizon";
import { Night } from "../parts/Night";
import { SkyChoice } from "../parts/SkyChoice";
import { GradedSky, PictureSky } from "../parts/SkyPanel";
import { lux } from "../parts/words";
import { Tip } from "../ui/Tip";

type Sky = Look["sky"];

const WARM_TO_COLD = "linear-gradient(to right, #ffb46b, #ffe4c8, #fff, #dbe6ff, #b5ceff)";

const ASIDE: Record<Sky["model"], (sky: Sky) => string> = {
  clear: (sky) => `turbidity ${sky.haze.toFixed(1)}`,
  cie: (sky) => `type ${sky.cie_type}`,
  graded: () => "",
  hdri: (sky) => sky.hdri.name,
};

const START = [{ kind: "start", label: "Propose six lights" }] as const;
const HOURS = [
  { kind: "day", label: "This day" },
  { kind: "year", label: "This year" },
  { kind: "kept", label: "Kept suns" },
] as const;

// What stands below is drawn anew when something of its own changes, not for every move of a hand on sun and sky.
const HuntPart = memo(Hunt);
const AimPart = memo(AimTheSun);
const KeptPart = memo(KeptSuns);
const OpeningsPart = memo(Openings);
const AirPart = memo(Air);
const SkyPart = memo(SkyChoice);
const HoursPart = memo(ContactSheet);

/** Sun and sky of the look. */
export function Daylight() {
  const look = useLookOf("sun", "sky", "clay");
  const facts = useStudio((s) => s.facts);
  if (!look) return null;
  const { sun, sky } = look;
  const holdSun = (patch: Partial<typeof sun>, moving: boolean) =>
    hold({ look: { sun: patch } }, moving);
  const holdSky = (patch: Partial<typeof sky>) => hold({ look: { sky: patch } }, false);
  return (
    <>
      <Section title="Sun" aside={sun.kelvin === null ? "physical colour" : "set colour"}>
        <Choice
          label="How the sun is placed"
          value={sun.mode}
          options={[
            { value: "time", label: "Place and time" },
            { value: "free", label: "Free" },
          ]}
          onChoose={(mode) =>
            void editLook(
              {
                sun:
                  mode === "free" && facts
                    ? { mode, azimuth_deg: facts.azimuth_deg, elevation_deg: facts.elevation_deg }
                    : { mode },
              },
              "Place the sun",
            )
          }
        />
        <div className="mt-2">
          {sun.mode === "free" && (
            <>
              <DialLine
                of="sun"
                name="azimuth_deg"
                value={sun.azimuth_deg}
                onHold={(azimuth_deg) => holdSun({ azimuth_deg }, true)}
                onRelease={() => void release("Turn the sun")}
              />
              <DialLine
                of="sun"
                name="elevation_deg"
                value={sun.elevation_deg}
                onHold={(elevation_deg) => holdSun({ elevation_deg }, true)}
                onRelease={() => void release("Raise the sun")}
              />
            </>
          )}
          <Level id="sun" name="Sun" />
          <DialLine
            of="sun"
            name="size"
            value={sun.size}
            write={(v) => `${Number(v.toFixed(2))}×`}
            onHold={(size) => holdSun({ size }, true)}
            onRelease={() => void release("Size of the sun")}
          />
          <DialLine
            of="sun"
            name="kelvin"
            value={sun.kelvin ?? 5500}
            track={WARM_TO_COLD}
            write={(v) => (sun.kelvin === null ? "as the air" : `${v.toFixed(0)} K`)}
            onHold={(v) => holdSun({ kelvin: Math.round(v / 50) * 50 }, false)}
            onRelease={() => void release("Colour of the sun")}
          />
          {sun.lux !== null && (
            <p className="text-ink-2">
              {lux(sun.lux)} taken from a picture ·{" "}
              <button
                className="quiet underline"
                onClick={() => void editLook({ sun: { lux: null } } as never, "Physical sun")}
              >
                as the air gives
              </button>
            </p>
          )}
          {sun.kelvin !== null && (
            <button
              className="quiet underline"
              onClick={() => void editLook({ sun: { kelvin: null } } as never, "Physical sun")}
            >
              Back to the colour the air gives it
            </button>
          )}
        </div>
      </Section>
      <Section title="Sky" aside={ASIDE[sky.model](sky)}>
        <SkyPart sky={sky} />
        <div className="mt-2">
          <Level id="sky" name="sky" />
          {sky.model === "graded" && <GradedSky graded={sky.graded} />}
          {sky.model === "hdri" && <PictureSky hdri={sky.hdri} />}
          {sky.model !== "hdri" && sky.model !== "graded" && (
            <DialLine
              of="sky"
              name="haze"
              value={sky.haze}
              onHold={(haze) => holdSky({ haze })}
              onRelease={() => void release("Turbidity")}
            />
          )}
          <Horizon sky={sky} />
          {sky.model !== "hdri" && (
            <DialLine
              of="sky"
              name="ground"
              value={sky.ground}
              onHold={(ground) => holdSky({ ground })}
              onRelease={() => void release("Ground reflectance")}
            />
          )}
          {sky.model !== "hdri" && (
            <Tip text="What lies around: its hue colours ceilings">
              <label className="grid grid-cols-[var(--label)_1fr_64px] items-center gap-2 py-[3px]">
                <span className="text-ink-2">Ground colour</span>
                <ColourField
                  wide
                  value={sky.ground_colour}
                  onHold={(ground_colour) => holdSky({ ground_colour })}
                  onRelease={() => void release("Colour of the ground")}
                />
                <button
                  className="quiet text-right text-small underline"
                  onClick={() =>
                    void editLook({ sky: { ground_colour: "#808080" } }, "Grey ground")
                  }
                >
                  grey
                </button>
              </label>
            </Tip>
          )}
        </div>
      </Section>
      {sky.model === "clear" && <Night sky={sky} />}
      <Section title="Starting lights" aside="for this view">
        <HoursPart kinds={START} />
      </Section>
      <HuntPart />
      <AimPart />
      <Section title="Hour sheet" aside="exposed one by one">
        <HoursPart kinds={HOURS} />
        <KeptPart />
      </Section>
      <OpeningsPart sky={sky} />
      <AirPart />
      <Section title="Clay" aside={<kbd>C</kbd>}>
        <label className="flex items-center gap-2 pb-1">
          <Switch
            on={look.clay.on}
            onChange={(on) => void editLook({ clay: { on: on } }, "Clay")}
          />
          Everything but glass in one neutral grey
        </label>
        {look.clay.on && (
          <DialLine
            of="clay"
            name="reflectance"
            value={look.clay.reflectance}
            onHold={(reflectance) => hold({ look: { clay: { reflectance } } }, false)}
            onRelease={() => void release("Clay reflectance")}
          />
        )}
      </Section>
    </>
  );
}
