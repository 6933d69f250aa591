import { Collapsible } from "radix-ui";
import { useState, type ReactNode } from "react";

interface FoldProps {
  title: ReactNode;
  className?: string;
  children: ReactNode;
}

/** A line that more lies under: a click, or the keyboard on it, opens it. */
export function Fold({ title, className = "", children }: FoldProps) {
  const [open, setOpen] = useState(false);
  return (
    <Collapsible.Root open={open} onOpenChange={setOpen} className={className}>
      <Collapsible.Trigger className="quiet flex items-baseline gap-2 text-left">
        <svg
          viewBox="0 0 6 8"
          className={`h-[8px] w-[6px] flex-none ${open ? "rotate-90" : ""}`}
          fill="currentColor"
          aria-hidden="true"
        >
          <path d="M0 0 6 4 0 8z" />
        </svg>
        <span>{title}</span>
      </Collapsible.Trigger>
      <Collapsible.Content>{children}</Collapsible.Content>
    </Collapsible.Root>
  );
}
