import { ToggleGroup } from "radix-ui";

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: { value: T; label: string }[];
  onChoose: (value: T) => void;
}

/** One of a few, side by side. */
export function Choice<T extends string>(p: ChoiceProps<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={p.label}
      className="flex w-full rounded-[2px] border border-rule"
      value={p.value}
      onValueChange={(v) => v && p.onChoose(v as T)}
    >
      {p.options.map((o) => (
        <ToggleGroup.Item
          key={o.value}
          value={o.value}
          className="flex-1 px-1 py-[3px] text-ink-2 data-[state=on]:bg-chosen data-[state=on]:font-semibold data-[state=on]:text-on-chosen"
        >
          {o.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
