import type { ReactNode } from "react";

/** A titled block of the stage panel, set off by a thin rule. */
export function Section({
  title,
  aside,
  children,
}: {
  title: string;
  aside?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section className="border-b border-rule py-3 last:border-b-0" aria-label={title}>
      <h2 className="mb-2 flex items-baseline justify-between font-[650]">
        <span>{title}</span>
        <span className="text-small font-normal text-ink-2">{aside}</span>
      </h2>
      {children}
    </section>
  );
}
