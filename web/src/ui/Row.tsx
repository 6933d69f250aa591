import type { ReactNode } from "react";

interface RowProps {
  label: string;
  /** What is in it has a name of its own: the label only stands beside it. */
  named?: boolean;
  className?: string;
  children: ReactNode;
}

/** A field with its label before it, as wide as those of the amounts. */
export function Row({ label, named, className = "", children }: RowProps) {
  const Whole = named ? "div" : "label";
  return (
    <Whole className={`grid grid-cols-[var(--label)_1fr] items-center gap-2 py-[3px] ${className}`}>
      <span className="text-ink-2">{label}</span>
      {children}
    </Whole>
  );
}
