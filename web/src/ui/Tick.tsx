import { Checkbox } from "radix-ui";

interface TickProps {
  checked: boolean;
  onChange: (on: boolean) => void;
  disabled?: boolean;
  /** In the lines on the mount, where type is small. */
  small?: boolean;
  "aria-label"?: string;
}

/** A box to tick; the label around it names it. */
export function Tick({ checked, onChange, disabled, small, ...named }: TickProps) {
  return (
    <Checkbox.Root
      {...named}
      className={`tick grid flex-none place-items-center rounded-[2px] border ${small ? "h-[11px] w-[11px]" : "h-[13px] w-[13px]"}`}
      checked={checked}
      disabled={disabled}
      onCheckedChange={(on) => onChange(on === true)}
    >
      <Checkbox.Indicator>
        <svg viewBox="0 0 10 10" className="block h-[9px] w-[9px]" fill="none" aria-hidden="true">
          <path d="M1.5 5.2 4 7.6 8.6 2.4" stroke="currentColor" strokeWidth="1.7" />
        </svg>
      </Checkbox.Indicator>
    </Checkbox.Root>
  );
}
