import { Switch } from "../ui/Switch";
import type { Look } from "../api/types";
import { editLook } from "../state/edits";
import { hold, release } from "../state/held";
import { useStudio } from "../state/store";
import { DialLine } from "./DialLine";
import { Section } from "../ui/Section";
import { degrees } from "./words";
import { Cheat } from "../ui/Tip";

/** What lights the sky when the sun is gone: the moon, and the towns along the horizon. */
export function Night({ sky }: { sky: Look["sky"] }) {
  const moon = useStudio((s) => s.facts?.moon);
  return (
    <Section title="Night" aside={moon && sky.moon ? `${(moon.lit * 100).toFixed(0)} % lit` : ""}>
      <label className="flex items-center gap-2 pb-1">
        <Switch
          on={sky.moon}
          onChange={(on) => void editLook({ sky: { moon: on } } as never, "Moon")}
        />
        The moon of this place and hour
      </label>
      {sky.moon && moon && (
        <p className="text-ink-2">
          {moon.elevation_deg > 0
            ? `Azimuth ${degrees(moon.azimuth_deg)}, elevation ${degrees(moon.elevation_deg)}, ${moon.lux.toFixed(3)} lx on the ground`
            : `It stands ${degrees(-moon.elevation_deg)} below the horizon; choose another hour or day.`}
        </p>
      )}
      <div className="flex items-center">
        <div className="flex-1">
          <DialLine
            of="sky"
            name="town_cd_m2"
            value={Math.max(sky.town_cd_m2, 0.0001)}
            normal={0.0001}
            write={(v) => (v <= 0.00011 ? "none" : `${v.toFixed(v < 0.01 ? 4 : 2)} cd`)}
            onHold={(v) =>
              hold({ look: { sky: { town_cd_m2: v <= 0.00011 ? 0 : v } } } as never, false)
            }
            onRelease={() => void release("Town glow")}
          />
        </div>
        <Cheat why="A cheat: painted along the horizon" className="ml-1" />
      </div>
    </Section>
  );
}
