import { useState } from "react";
import type { Look } from "../api/types";
import { hold, release } from "../state/held";
import { useLookPart } from "../state/look";
import { get, set, useStudio } from "../state/store";
import { percent, shutter, signed } from "./words";
import { Tick } from "../ui/Tick";
import { Tip } from "../ui/Tip";

/** What the camera is set to, and what that does to the picture. Never traces light. */
export function ExposureLine() {
  const e = useLookPart("exposure");
  const auto = !!e && e.automatic !== "off";
  // What comes with every frame is drawn by parts of its own: the line stays as it is.
  const followed_s = useStudio((s) => (auto ? s.frame?.shutter_s : undefined));
  const metered = useStudio((s) => !!s.frame?.metered_s);
  const [keepEv, setKeepEv] = useState(false);
  if (!e) return <div className="h-[46px] shrink-0 bg-mount-2" />;
  const shown_s = followed_s ?? e.shutter_s;
  const to = (patch: Partial<typeof e>, label: string) => {
    hold({ look: { exposure: patch } }, false);
    return release(label);
  };
  return (
    <div
      className="exposure-line flex h-[46px] shrink-0 items-center gap-5 overflow-x-auto overflow-y-hidden bg-mount-2 px-3 text-on-mount"
      aria-label="Exposure"
      role="group"
    >
      <Setting
        label="f-number"
        text={`f/${Number(e.f_number.toFixed(1))}`}
        width={48}
        read={(t) => Number.parseFloat(t.replace(/^f\//, ""))}
        step={(n) => e.f_number * 2 ** (n / 6)}
        onSet={(v) => {
          const f_number = Math.min(Math.max(v, 0.7), 64);
          const shutter_s = e.shutter_s * (f_number / e.f_number) ** 2;
          void to(keepEv ? { f_number, shutter_s } : { f_number }, "Change the f-number");
        }}
      />
      <Setting
        label="shutter"
        text={shutter(shown_s)}
        width={56}
        read={(t) => {
          const [a, b] = t.replace("s", "").split("/");
          return b ? Number(a) / Number(b) : Number(a);
        }}
        step={(n) => shown_s * 2 ** (n / 3)}
        onSet={(v) => {
          const shutter_s = Math.min(Math.max(v, 1e-5), 3600);
          const iso = (e.iso * e.shutter_s) / shutter_s;
          // A shutter set by hand takes the exposure over.
          void to(
            keepEv && !auto ? { shutter_s, iso } : { shutter_s, automatic: "off" },
            "Change the shutter",
          );
        }}
      />
      <Setting
        label="ISO"
        text={e.iso.toFixed(0)}
        width={44}
        read={Number.parseFloat}
        step={(n) => e.iso * 2 ** (n / 3)}
        onSet={(v) => {
          const iso = Math.min(Math.max(v, 1), 409600);
          const shutter_s = (e.shutter_s * e.iso) / iso;
          void to(keepEv ? { iso, shutter_s } : { iso }, "Change the ISO");
        }}
      />
      <div className="w-[46px] shrink-0">
        <Tip text="Keep the exposure: when one setting changes, another makes up for it">
          <label className="flex items-center gap-1 text-small whitespace-nowrap text-on-mount-2">
            <Tick
              aria-label="Keep the exposure"
              small
              checked={keepEv}
              onChange={(on) => setKeepEv(on)}
            />
            EV
          </label>
        </Tip>
        <div className="text-title font-[650]" data-testid="ev">
          <Value />
        </div>
      </div>
      <div className="w-[52px] shrink-0">
        <Tip text="The shutter follows the picture, so that its mean stays at middle grey">
          <label className="flex items-center gap-1 text-small whitespace-nowrap text-on-mount-2">
            <Tick
              aria-label="Automatic exposure"
              small
              checked={auto}
              onChange={(on) =>
                void to(
                  on
                    ? { automatic: "whole", compensation: 0 }
                    : { automatic: "off", shutter_s: get().frame?.shutter_s ?? e.shutter_s },
                  on ? "Automatic exposure" : "Take the exposure over",
                )
              }
            />
            auto{auto && e.compensation !== 0 ? ` ${signed(e.compensation)}` : ""}
          </label>
        </Tip>
        {auto ? (
          <Tip text="Meter on an area: click it in the picture">
            <button
              className="text-body underline decoration-on-mount-2 underline-offset-2 hover:decoration-on-mount"
              onClick={() =>
                e.automatic === "area"
                  ? void to({ automatic: "whole" }, "Meter on the whole picture")
                  : set({ picking: "metered area", placing: null, metering: false })
              }
            >
              {e.automatic === "area" ? "whole" : "area …"}
            </button>
          </Tip>
        ) : (
          <Tip text="Set the shutter once, so that the picture's mean lies at middle grey">
            <button
              className="rounded-[2px] border border-on-mount-2 px-[7px] hover:border-on-mount"
              disabled={!metered}
              onClick={() => {
                const shutter_s = get().frame?.metered_s;
                if (shutter_s) void to({ shutter_s }, "Meter the picture");
              }}
            >
              Meter
            </button>
          </Tip>
        )}
      </div>
      <Setting
        label="white"
        text={`${e.kelvin.toFixed(0)} K`}
        width={60}
        read={Number.parseFloat}
        step={(n) => e.kelvin + 100 * n}
        onSet={(v) =>
          void to(
            { kelvin: Math.min(Math.max(Math.round(v), 1000), 25000) },
            "Change the white point",
          )
        }
      />
      <Tip text="Click something in the picture that should be neutral">
        <button
          className="rounded-[2px] border border-on-mount-2 px-[7px] py-[2px] hover:border-on-mount"
          onClick={() => set({ picking: "neutral", placing: null, metering: false })}
        >
          Neutral
        </button>
      </Tip>
      <Measured />
    </div>
  );
}

/** The exposure value of the picture. */
const Value = () => useStudio((s) => s.frame?.ev.toFixed(1)) ?? "";

/** What the exposure does to the picture. */
function Measured() {
  const frame = useStudio((s) => s.frame);
  const burnt = frame?.burnt ?? 0;
  return (
    <>
      <Histogram bins={frame?.histogram ?? []} rgb={frame?.histogram_rgb ?? []} />
      <Share label="clipped" value={burnt} strong={burnt > 0.005} />
      <Share label="black" value={frame?.black ?? 0} strong={false} />
    </>
  );
}

interface SettingProps {
  label: string;
  text: string;
  width: number;
  read: (text: string) => number;
  step: (n: number) => number;
  onSet: (value: number) => void;
}

function Setting(p: SettingProps) {
  const [text, setText] = useState<string | null>(null);
  const take = () => {
    if (text !== null) {
      const value = p.read(text);
      if (Number.isFinite(value) && value > 0) p.onSet(value);
    }
    setText(null);
  };
  return (
    <label className="shrink-0" style={{ width: p.width }}>
      <span className="block text-small text-on-mount-2">{p.label}</span>
      <Tip text="Arrow keys: a third of a stop">
        <input
          className="number w-full text-left! text-title font-[650]"
          value={text ?? p.text}
          onFocus={(e) => e.target.select()}
          onChange={(e) => setText(e.target.value)}
          onBlur={take}
          onKeyDown={(e) => {
            // Enter takes the keyboard off the field, as everywhere, and that takes what was typed.
            if (e.key === "Escape") setText(null);
            else if (e.key === "ArrowUp" || e.key === "ArrowDown") {
              e.preventDefault();
              setText(null);
              p.onSet(p.step((e.key === "ArrowUp" ? 1 : -1) * (e.shiftKey ? 3 : 1)));
            }
          }}
        />
      </Tip>
    </label>
  );
}

const CHANNELS = ["#ff5a4a", "#4fd06a", "#5a8cff"];

/** Shown values of the picture: of its luminance, or of red, green and blue; a click changes it. */
function Histogram({ bins, rgb }: { bins: number[]; rgb: number[][] }) {
  const [channels, setChannels] = useState(false);
  const shape = (values: number[]) => {
    const top = Math.max(...values.slice(1, -1), 1);
    return values
      .map((v, i) => {
        const height = Math.min(Math.sqrt(v / top), 1) * 34;
        return `${(i / (values.length - 1)) * 200},${36 - height}`;
      })
      .join(" ");
  };
  const name = channels ? "Histogram of red, green and blue" : "Histogram";
  return (
    <Tip text="Luminance, or red, green and blue: click to change">
      <button className="h-[34px] min-w-[60px] flex-1" onClick={() => setChannels(!channels)}>
        <svg
          viewBox="0 0 200 36"
          preserveAspectRatio="none"
          className="h-full w-full"
          role="img"
          aria-label={name}
        >
          {channels ? (
            rgb.map((values, i) => (
              <polyline
                key={CHANNELS[i]}
                points={shape(values)}
                fill="none"
                stroke={CHANNELS[i]}
                strokeWidth="1.4"
                vectorEffect="non-scaling-stroke"
              />
            ))
          ) : (
            <polygon points={`0,36 ${shape(bins)} 200,36`} fill="currentColor" opacity="0.6" />
          )}
        </svg>
      </button>
    </Tip>
  );
}

function Share({ label, value, strong }: { label: string; value: number; strong: boolean }) {
  return (
    <div className="w-[46px] shrink-0">
      <div className="text-small text-on-mount-2">{label}</div>
      <div
        className={`text-title font-[650] whitespace-nowrap ${strong ? "text-sun-on-mount" : ""}`}
        data-testid={label}
      >
        {percent(value)}
      </div>
    </div>
  );
}

/** Brighter or darker by thirds of a stop, through the shutter. */
export function nudgeExposure(thirds: number, exposure: Look["exposure"]) {
  const patch =
    exposure.automatic === "off"
      ? { shutter_s: exposure.shutter_s * 2 ** (thirds / 3) }
      : { compensation: Math.min(Math.max(exposure.compensation + thirds / 3, -5), 5) };
  hold({ look: { exposure: patch } }, false);
  void release(`Exposure ${signed(thirds / 3)} EV`);
}
