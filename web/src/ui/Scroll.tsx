import { ScrollArea } from "radix-ui";
import type { ReactNode } from "react";

/** A list that scrolls by itself, with a bar that is seen where there is more. */
export function Scroll({ className = "", children }: { className?: string; children: ReactNode }) {
  return (
    <ScrollArea.Root
      type="auto"
      className={`scroll flex min-h-0 flex-col overflow-hidden ${className}`}
    >
      {/* The library lays a table around the content, in which nothing would be cut off with dots. */}
      <ScrollArea.Viewport className="min-h-0 w-full flex-1 [&>div]:block!">
        {children}
      </ScrollArea.Viewport>
      <ScrollArea.Scrollbar orientation="vertical" className="w-[7px] p-[1px]">
        <ScrollArea.Thumb className="rounded-[2px] bg-ink-3" />
      </ScrollArea.Scrollbar>
    </ScrollArea.Root>
  );
}
