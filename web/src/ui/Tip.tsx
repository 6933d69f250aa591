import { Tooltip } from "radix-ui";
import type { ReactElement, ReactNode } from "react";

/** What is said of a control while the pointer rests on it or the keyboard is on it. */
export function Tip({ text, children }: { text?: ReactNode; children: ReactElement }) {
  if (!text) return children;
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={4}
          collisionPadding={8}
          className="pointer-events-none z-50 max-w-[280px] rounded-[2px] bg-chosen px-2 py-1 text-small leading-snug whitespace-pre-line text-on-chosen"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

/** After so long, in ms, the pointer rests; once one is shown the next ones follow at once. */
const RESTS = 600;

export function Tips({ children }: { children: ReactNode }) {
  return (
    <Tooltip.Provider delayDuration={RESTS} disableHoverableContent>
      {children}
    </Tooltip.Provider>
  );
}

/** A small open ring: a setting no real light could have, and why. */
export function Cheat({ why, className = "" }: { why: string; className?: string }) {
  return (
    <Tip text={why}>
      <i role="img" aria-label={why} className={`cheat ${className}`} />
    </Tip>
  );
}
