import { Select as Radix } from "radix-ui";

export interface Option {
  value: string;
  label: string;
  disabled?: boolean;
}

interface SelectProps {
  /** What is chosen: its name for those who do not see it. */
  label: string;
  value: string;
  options: (Option | { label: string; options: Option[] })[];
  onPick: (value: string) => void;
  /** Shown while nothing is chosen. */
  placeholder?: string;
  className?: string;
}

/** The library takes no empty value; here it is an ordinary one. */
const EMPTY = "\u0000";
const inside = (value: string) => value || EMPTY;

/** One of several from a list that opens. */
export function Select(p: SelectProps) {
  const flat = p.options.flatMap((o) => ("options" in o ? o.options : [o]));
  const known = flat.some((o) => o.value === p.value);
  return (
    <Radix.Root
      value={known ? inside(p.value) : ""}
      onValueChange={(v) => p.onPick(v === EMPTY ? "" : v)}
    >
      <Radix.Trigger
        aria-label={p.label}
        className={`entry flex items-center justify-between gap-2 text-left ${p.className ?? ""}`}
      >
        <span className="min-w-0 flex-1 truncate">
          <Radix.Value placeholder={p.placeholder} />
        </span>
        <Radix.Icon asChild>
          <svg viewBox="0 0 8 5" className="block w-[8px] flex-none text-ink-2" fill="none">
            <path d="M1 .8 4 4 7 .8" stroke="currentColor" strokeWidth="1.2" />
          </svg>
        </Radix.Icon>
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          position="popper"
          sideOffset={2}
          className="list z-50 max-h-[min(340px,var(--radix-select-content-available-height))] min-w-[var(--radix-select-trigger-width)] overflow-hidden rounded-[2px] border border-ink bg-sheet text-ink shadow-[0_4px_14px_rgb(0_0_0/0.28)]"
        >
          <Radix.Viewport className="py-1">
            {p.options.map((o) =>
              "options" in o ? (
                <Radix.Group key={`group ${o.label}`}>
                  <Radix.Label className="px-3 pt-1 pb-[2px] text-small text-ink-2">
                    {o.label}
                  </Radix.Label>
                  {o.options.map((i) => (
                    <Item key={i.value} {...i} />
                  ))}
                </Radix.Group>
              ) : (
                <Item key={o.value} {...o} />
              ),
            )}
          </Radix.Viewport>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

function Item({ value, label, disabled }: Option) {
  return (
    <Radix.Item
      value={inside(value)}
      disabled={disabled}
      className="cursor-pointer px-3 py-[3px] outline-none select-none data-[disabled]:cursor-default data-[disabled]:text-ink-3 data-[highlighted]:bg-chosen data-[highlighted]:text-on-chosen data-[state=checked]:font-semibold"
    >
      <Radix.ItemText>{label}</Radix.ItemText>
    </Radix.Item>
  );
}
