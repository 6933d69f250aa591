import { vocabulary } from "../state/vocabulary";
import { setFlying, walkBy } from "../state/fly";
import { stopPicking } from "../state/pickFor";
import { Dialog } from "radix-ui";
import { lazy, Suspense, useEffect } from "react";
import { edit, editLook, stepBack } from "../state/edits";
import { hold, release } from "../state/held";
import { merge } from "../state/merge";
import { lookRow, viewRow, showView } from "../state/look";
import { set, useStudio, get } from "../state/store";
import { STAGES } from "../state/store/view";
import { giveUp, setHands } from "../state/hands";
import { keepProof, set as setProofs } from "../state/proofs";
import { set as endAim } from "../state/hunt";
import { Commands } from "./Commands";
import { nudgeExposure } from "./ExposureLine";

// Its texts are as much to load as all the rest of a stage.
const Guide = lazy(() => import("./Guide").then((m) => ({ default: m.Guide })));

const KEYS: [string, string][] = [
  ["1 – 7", "stages, from Site to Handover"],
  ["Space", "pause and go on"],
  ["C", "clay"],
  [", and .", "exposure a third of a stop down or up"],
  ["[ and ]", "ten minutes earlier or later"],
  ["V", "next view"],
  ["W", "walk: drag the picture to look, arrows to go, Page Up and Down to rise"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["M", "meter: pin readings in the picture"],
  ["hold H", "marks of all lamps, aims, additions, openings and moved parts in the picture"],
  [
    "Drag a mark",
    "along the surface under it; Alt lifts it off, Ctrl moves a copy, Esc puts it back",
  ],
  [
    "Arrows on a mark",
    "5 cm, with Shift 1 cm; Page Up and Down lift it; wheel: level of a chosen lamp",
  ],
  ["Drag sunlight", "in Daylight: the sun follows; with Shift along its path of the day"],
  ["hold F", "find: only the selected source, exposed by itself, its reach outlined"],
  ["B, L", "overlay of clipping; of luminance in false colours"],
  ["G", "composition guides, one after another"],
  ["P, hold X", "keep a proof; show the last or chosen one"],
  ["R", "drag over a region that should clear first; again: the whole picture"],
  ["Wheel over the picture", "look closer; drag moves, double click shows the whole"],
  ["hold N", "the picture before denoising"],
  ["hold T", "the light as it was traced, without finish"],
  ["Esc", "stop placing or metering"],
  ["Arrows in a field", "one step; Shift coarse, Alt fine; Enter is done with it"],
  ["Double click a slider", "back to its normal value"],
  ["A", "the picture alone, as large as the window; again: the page"],
  ["Ctrl K", "find any control, look, view or lamp by its name; Shift Enter reads about it"],
  ["?", "this sheet"],
];

function onKey(e: KeyboardEvent) {
  const at = e.target as HTMLElement;
  // A tick or a slider that has the focus does not take letters.
  const ticked = at instanceof HTMLInputElement && at.type === "radio";
  // A list takes letters: they lead to what begins with them.
  const listed = !!at.closest("[role=combobox], [role=listbox]");
  const overlay = vocabulary().readings.find((r) => r.key && r.key === e.key);
  const typing = (!ticked && ["INPUT", "TEXTAREA"].includes(at.tagName)) || listed;
  const s = get();
  const saved = lookRow(s)?.settings;
  const look = saved && merge(saved, s.held?.look ?? {});
  if (s.home) {
    if (e.key === "Escape" && s.project && !typing) set({ home: false });
    return;
  }
  // Before all else: a hand that copies or lifts has Ctrl or Alt down.
  if (e.key === "Escape" && giveUp()) {
    e.preventDefault();
    return;
  }
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "k") {
    e.preventDefault();
    set({ commandsShown: true });
    return;
  }
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
    e.preventDefault();
    void stepBack(e.shiftKey ? "redo" : "undo");
    return;
  }
  if (s.flying && !typing && walkBy(e.key, e.shiftKey)) {
    e.preventDefault();
    return;
  }
  // Enter in a field commits, and gives the keyboard back to the page; a form and a list have their own.
  if (e.key === "Enter" && at instanceof HTMLInputElement && !at.form && !listed) at.blur();
  if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
  const stage = STAGES[Number(e.key) - 1];
  if (stage) set({ stage });
  else if (!look) return;
  else if (e.key === "a") set({ alone: !s.alone });
  else if (e.key === "Escape") {
    if (s.mounted) {
      set({ mounted: null });
      e.preventDefault();
      return;
    }
    if (s.alone && !s.picking && !s.placing && !s.metering && !s.flying) set({ alone: false });
    stopPicking();
    set({ placing: null, metering: false, reading: "plain", split: null });
    setFlying(false);
    endAim({ aiming: null, brush: null, stroke: null });
  } else if (e.key === " " && at.tagName !== "BUTTON" && !ticked) set({ paused: !s.paused });
  else if (e.key === "w") {
    set({ stage: "View", placing: null, metering: false });
    setFlying(!s.flying);
  } else if (e.key === "m") set({ metering: !s.metering, placing: null, stage: "Balance" });
  else if (e.key === "t") set({ plain: true });
  else if (e.key === "n") set({ reading: "raw" });
  else if (e.key === "f") set({ find: s.selected });
  else if (e.key === "x") setProofs({ held: true });
  else if (e.key === "h") setHands({ all: true });
  else if (e.key === "p") void keepProof();
  else if (overlay) set({ reading: s.reading === overlay.id ? "plain" : overlay.id });
  else if (e.key === "r") {
    const begin = !s.region && s.picking !== "region";
    set({ region: null, picking: begin ? "region" : null, placing: null });
  } else if (e.key === "g") nextGuide();
  else if (e.key === "c") void editLook({ clay: { on: !look.clay.on } }, "Clay");
  else if (e.key === "," || e.key === ".") nudgeExposure(e.key === "." ? 1 : -1, look.exposure);
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
const letGo = () => {
  set({ plain: false, find: null });
  if (get().reading === "raw") set({ reading: "plain" });
  setProofs({ held: false });
  setHands({ all: false });
};

function onKeyUp(e: KeyboardEvent) {
  if (["t", "f", "n", "x", "h"].includes(e.key)) letGo();
}

const GUIDES = ["none", "thirds", "golden", "spiral", "diagonals", "centre", "safe"] as const;

/** The next guide of the view; the spiral goes through its four ways first. */
function nextGuide() {
  const row = viewRow(get());
  if (!row) return;
  const { guides, guides_turn } = row.settings;
  const settings =
    guides === "spiral" && guides_turn < 3
      ? { guides_turn: guides_turn + 1 }
      : { guides: GUIDES[(GUIDES.indexOf(guides) + 1) % GUIDES.length], guides_turn: 0 };
  void edit("view", row.id, { settings }, "Guides");
}

/** Keyboard of the page, and the sheet that lists it. */
export function Keys() {
  const shown = useStudio((s) => s.keysShown);
  const guide = useStudio((s) => s.guide);
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
    <>
      <Commands />
      {guide !== null && (
        <Suspense>
          <Guide />
        </Suspense>
      )}
      <Dialog.Root open={shown} onOpenChange={(keysShown) => set({ keysShown })}>
        <Dialog.Portal>
          <Dialog.Content
            className="fixed top-[60px] right-[12px] w-[352px] rounded-[3px] border border-ink bg-sheet p-4 text-ink"
            aria-describedby={undefined}
          >
            <Dialog.Title className="mb-2 font-[650]">Keyboard</Dialog.Title>
            <dl className="grid grid-cols-[132px_1fr] gap-y-[5px]">
              {KEYS.map(([key, what]) => (
                <div key={key} className="contents">
                  <dt className="font-[600]">{key}</dt>
                  <dd className="text-ink-2">{what}</dd>
                </div>
              ))}
            </dl>
            <div className="mt-3 flex gap-2">
              <button className="button" onClick={() => set({ keysShown: false, guide: "" })}>
                Read the guide
              </button>
              <Dialog.Close className="button">Close</Dialog.Close>
            </div>
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </>
  );
}
