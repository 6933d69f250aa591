import { ContextMenu } from "radix-ui";
import type { ReactElement } from "react";

/** What can be done with a thing: a line that does it, nothing that parts two groups of lines, or one of a few that holds. */
export type MenuLine =
  | { label: string; key?: string; disabled?: boolean; onPick: () => void }
  | { label: string; chosen: boolean; onPick: () => void }
  | null;

export const MENU =
  "z-50 min-w-[180px] rounded-[2px] border border-ink bg-sheet py-1 text-ink shadow-[0_4px_14px_rgb(0_0_0/0.28)]";
export const MENU_ITEM =
  "flex cursor-pointer items-center gap-2 px-3 py-1 data-[disabled]:text-ink-2/60 data-[highlighted]:bg-chosen data-[highlighted]:text-on-chosen data-[highlighted]:outline-none";

interface MenuProps {
  /** What the menu is about, for those who do not see it. */
  label: string;
  lines: () => MenuLine[];
  children: ReactElement;
}

/** A menu at the pointer, by the second button or the menu key; everything in it stands elsewhere on the page, too. */
export function Menu({ label, lines, children }: MenuProps) {
  return (
    <ContextMenu.Root>
      <ContextMenu.Trigger asChild>{children}</ContextMenu.Trigger>
      <ContextMenu.Portal>
        <Lines label={label} lines={lines} />
      </ContextMenu.Portal>
    </ContextMenu.Root>
  );
}

/** Told when the menu opens: what can be done depends on how things stand then. */
function Lines({ label, lines }: Pick<MenuProps, "label" | "lines">) {
  return (
    <ContextMenu.Content className={MENU} aria-label={label} collisionPadding={8}>
      {lines().map((line, n) =>
        line === null ? (
          <ContextMenu.Separator key={n} className="my-1 h-px bg-rule" />
        ) : "chosen" in line ? (
          <ContextMenu.CheckboxItem
            key={line.label}
            className={MENU_ITEM}
            checked={line.chosen}
            onSelect={line.onPick}
          >
            <i className="w-[12px] not-italic">{line.chosen ? "✓" : ""}</i>
            {line.label}
          </ContextMenu.CheckboxItem>
        ) : (
          <ContextMenu.Item
            key={line.label}
            className={MENU_ITEM}
            disabled={line.disabled}
            onSelect={line.onPick}
          >
            <i className="w-[12px]" />
            <span className="flex-1">{line.label}</span>
            {line.key && <span className="opacity-60">{line.key}</span>}
          </ContextMenu.Item>
        ),
      )}
    </ContextMenu.Content>
  );
}
