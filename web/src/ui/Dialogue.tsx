import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

interface DialogueProps {
  title: string;
  /** What is asked or told, under the title. */
  told?: ReactNode;
  className?: string;
  children: ReactNode;
}

/** What lies over the page and is dealt with first; inside a `Dialog.Root`. */
export function Dialogue({ title, told, className, children }: DialogueProps) {
  const described = told ? {} : { "aria-describedby": undefined };
  return (
    <Dialog.Portal>
      <Dialog.Overlay className="fixed inset-0 z-30 bg-black/30" />
      <Dialog.Content
        {...described}
        className={`fixed left-1/2 z-40 max-w-[94vw] -translate-x-1/2 border border-ink bg-sheet p-5 text-ink ${className ?? "top-[18%] w-(--dialogue)"}`}
      >
        <Dialog.Title className="mb-3 text-title font-[650]">{title}</Dialog.Title>
        {told && <Dialog.Description className="mb-2 text-ink-2">{told}</Dialog.Description>}
        {children}
      </Dialog.Content>
    </Dialog.Portal>
  );
}
