import { Dialog } from "radix-ui";
import { useEffect, useMemo, useRef, useState } from "react";
import { guideHtml, passage } from "../state/guide";
import { set, useStudio } from "../state/store";
import { Dialogue } from "../ui/Dialogue";

/** The guide over the page, open where something is told; the list of commands is its index. */
export function Guide() {
  const about = useStudio((s) => s.guide);
  return (
    <Dialog.Root open={about !== null} onOpenChange={(open) => !open && set({ guide: null })}>
      <Dialogue title="Guide" className="top-[6%] flex h-[88vh] w-[860px] flex-col">
        {about !== null && <Text about={about} />}
      </Dialogue>
    </Dialog.Root>
  );
}

function Text({ about }: { about: string }) {
  const html = useMemo(guideHtml, []);
  const text = useRef<HTMLDivElement>(null);
  const [chapters, setChapters] = useState<HTMLElement[]>([]);
  const show = (found: Element | null | undefined) => found?.scrollIntoView({ block: "start" });
  useEffect(() => {
    const whole = text.current;
    if (!whole) return;
    setChapters([
      ...whole.querySelectorAll<HTMLElement>(
        "section:first-child h2, section:not(:first-child) h1",
      ),
    ]);
    const found = about ? passage(whole, about) : null;
    found?.classList.add("found");
    found?.scrollIntoView({ block: "center" });
    return () => found?.classList.remove("found");
  }, [about]);
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[150px_minmax(0,1fr)] gap-6">
      <nav aria-label="Chapters" className="flex flex-col items-start gap-1 overflow-y-auto">
        {chapters.map((c) => (
          <button key={c.textContent} className="quiet text-left" onClick={() => show(c)}>
            {c.textContent}
          </button>
        ))}
        <span className="mt-auto pt-4 text-small text-ink-2">
          <kbd>Ctrl K</kbd> finds anything by its name; <kbd>Shift</kbd> <kbd>Enter</kbd> reads
          about it here.
        </span>
        <Dialog.Close className="button mt-2">Close</Dialog.Close>
      </nav>
      {/* Its links lead within the text. */}
      {/* eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-static-element-interactions */}
      <div
        ref={text}
        className="guide min-h-0 overflow-y-auto pr-4"
        // A text that scrolls is reached by the keyboard, too.
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
        tabIndex={0}
        data-testid="guide"
        onClick={(e) => {
          const link = (e.target as HTMLElement).closest("a");
          if (!link) return;
          e.preventDefault();
          const file = link.getAttribute("href")?.slice(1);
          show(text.current?.querySelector(`[data-text="${file}"]`));
        }}
        // The texts lie with the application; nothing of a stranger is in them.
        dangerouslySetInnerHTML={{ __html: html }}
      />
    </div>
  );
}
