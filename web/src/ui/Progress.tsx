import { Progress as Radix } from "radix-ui";

/** How far some work is, 0…1. */
export function Progress({ label, share }: { label: string; share: number }) {
  const percent = Math.round(100 * Math.min(Math.max(share, 0), 1));
  return (
    <Radix.Root
      aria-label={label}
      value={percent}
      className="mt-1 h-[3px] w-full overflow-hidden bg-rule"
    >
      <Radix.Indicator className="h-full bg-ink" style={{ width: `${percent}%` }} />
    </Radix.Root>
  );
}
