import { Switch as Radix } from "radix-ui";

interface SwitchProps {
  on: boolean;
  onChange: (on: boolean) => void;
  "aria-label"?: string;
}

/** Whether something is there as a whole; at once. The label around it names it. */
export function Switch({ on, onChange, ...named }: SwitchProps) {
  return (
    <Radix.Root
      {...named}
      checked={on}
      onCheckedChange={onChange}
      className="switch relative h-[13px] w-[24px] flex-none rounded-[2px] border"
    >
      <Radix.Thumb className="absolute top-[1px] left-[1px] block h-[9px] w-[9px] rounded-[1px] bg-current data-[state=checked]:left-[12px]" />
    </Radix.Root>
  );
}
