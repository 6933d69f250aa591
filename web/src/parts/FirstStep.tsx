import { noMoreSteps, type Step, stepDone, useFirstSteps } from "../state/firstSteps";
import { useStudio } from "../state/store";

const WORDS: Record<Step, [string, string]> = {
  sun: ["Move the sun", "Drag the orange disc, or the time of day below it: the light follows."],
  level: [
    "Mix the sources",
    "Each card is one source by itself. Pull its slider; nothing is traced for that.",
  ],
  proof: ["Keep a proof", "Press P to keep this picture, change something, and hold X to compare."],
};

/** A card beside what it speaks of, until that was done or it is put away. */
export function FirstStep({ step, className }: { step: Step; className: string }) {
  const shown = useFirstSteps((s) => s.left.includes(step));
  const last = useFirstSteps((s) => s.left.length === 1);
  const lit = useStudio((s) => s.frame !== null && !s.frame.empty);
  if (!shown || !lit) return null;
  const [name, words] = WORDS[step];
  return (
    <aside
      aria-label={`First step: ${name}`}
      className={`z-10 w-[228px] rounded-[3px] border border-ink bg-sheet p-[10px] text-ink shadow-[0_2px_8px_rgb(0_0_0/0.25)] ${className}`}
    >
      <b className="font-[650]">{name}</b>
      <p className="mt-[2px] text-ink-2">{words}</p>
      <p className="mt-[6px] flex justify-between">
        <button className="quiet underline" onClick={() => stepDone(step)}>
          Got it
        </button>
        {!last && (
          <button className="quiet underline" onClick={noMoreSteps}>
            No more of these
          </button>
        )}
      </p>
    </aside>
  );
}
