import { Dialog } from "radix-ui";
import { useEffect } from "react";
import {
  editLook,
  hold,
  lookRow,
  merge,
  release,
  set,
  showView,
  STAGES,
  stepBack,
  useStudio,
  get,
} from "../state/studio";
import { set as endAim } from "../state/hunt";
import { nudgeExposure } from "./ExposureLine";

const KEYS: [string, string][] = [
  ["1 – 7", "stages, from Site to Handover"],
  ["Space", "pause and go on"],
  ["C", "clay"],
  [", and .", "exposure a third of a stop down or up"],
  ["[ and ]", "ten minutes earlier or later"],
  ["V", "next view"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["M", "meter: pin readings in the picture"],
  ["hold T", "the light as it was traced, without finish"],
  ["Esc", "stop placing or metering"],
  ["Arrows in a field", "one step; Shift coarse, Alt fine"],
  ["Double click a slider", "back to its normal value"],
  ["?", "this sheet"],
];

function onKey(e: KeyboardEvent) {
  const at = e.target as HTMLElement;
  const typing = ["INPUT", "SELECT", "TEXTAREA"].includes(at.tagName);
  const s = get();
  const saved = lookRow(s)?.settings;
  const look = saved && merge(saved, s.held?.look ?? {});
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
    e.preventDefault();
    void stepBack(e.shiftKey ? "redo" : "undo");
    return;
  }
  if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
  const stage = STAGES[Number(e.key) - 1];
  if (stage) set({ stage });
  else if (!look) return;
  else if (e.key === "Escape") {
    set({ placing: null, metering: false });
    endAim({ aiming: null });
  } else if (e.key === " " && at.tagName !== "BUTTON") set({ paused: !s.paused });
  else if (e.key === "m") set({ metering: !s.metering, placing: null, stage: "Balance" });
  else if (e.key === "t") set({ plain: true });
  else if (e.key === "c") void editLook({ clay: { on: !look.clay.on } }, "Clay");
  else if (e.key === "," || e.key === ".")
    nudgeExposure(e.key === "." ? 1 : -1, look.exposure.shutter_s);
  else if (e.key === "[" || e.key === "]") {
    const minutes = Math.min(Math.max(look.minutes + (e.key === "]" ? 10 : -10), 0), 1440);
    hold({ look: { minutes, sun: { mode: "time" } } }, false);
    void release("Change the time");
  } else if (e.key === "v" && s.project) {
    const i = s.project.views.findIndex((v) => v.id === s.viewId);
    showView(s.project.views[(i + 1) % s.project.views.length]?.id ?? "");
  } else if (e.key === "?") set({ keysShown: true });
  else return;
  e.preventDefault();
}

/** What is shown only while a key is held ends with it, or when the page loses the keyboard. */
const letGo = () => set({ plain: false });

function onKeyUp(e: KeyboardEvent) {
  if (e.key === "t") letGo();
}

/** Keyboard of the page, and the sheet that lists it. */
export function Keys() {
  const shown = useStudio((s) => s.keysShown);
  useEffect(() => {
    window.addEventListener("keydown", onKey);
    window.addEventListener("keyup", onKeyUp);
    window.addEventListener("blur", letGo);
    return () => {
      window.removeEventListener("keydown", onKey);
      window.removeEventListener("keyup", onKeyUp);
      window.removeEventListener("blur", letGo);
    };
  }, []);
  return (
    <Dialog.Root open={shown} onOpenChange={(keysShown) => set({ keysShown })}>
      <Dialog.Portal>
        <Dialog.Content
          className="fixed top-[60px] right-[12px] w-[340px] rounded-[3px] border border-ink bg-sheet p-4 text-ink"
          aria-describedby={undefined}
        >
          <Dialog.Title className="mb-2 font-[650]">Keyboard</Dialog.Title>
          <dl className="grid grid-cols-[120px_1fr] gap-y-[5px]">
            {KEYS.map(([key, what]) => (
              <div key={key} className="contents">
                <dt className="font-[600]">{key}</dt>
                <dd className="text-ink-2">{what}</dd>
              </div>
            ))}
          </dl>
          <Dialog.Close className="button mt-3">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
