import { Toast } from "radix-ui";

/** What was refused or went wrong, in words, over whatever is shown; it stays until it is closed or the next one comes. */
export function Toasts({ text, onClose }: { text: string; onClose: () => void }) {
  return (
    <Toast.Provider duration={Infinity} label="Message" swipeDirection="up">
      {text && (
        <Toast.Root
          key={text}
          asChild
          open
          type="foreground"
          onOpenChange={(open) => !open && onClose()}
        >
          {/* The library reads it out; a role of its own would have it said twice. */}
          <div
            data-testid="message"
            className="pointer-events-auto flex items-baseline gap-4 border border-ink border-l-[3px] border-l-sun bg-sheet px-3 py-2 text-ink shadow-[0_4px_14px_rgb(0_0_0/0.28)]"
          >
            <Toast.Description>{text}</Toast.Description>
            <Toast.Close className="font-[550] underline">Close</Toast.Close>
          </div>
        </Toast.Root>
      )}
      <Toast.Viewport asChild>
        <div className="fixed top-[52px] left-1/2 z-50 w-max max-w-[min(560px,90vw)] -translate-x-1/2 outline-none" />
      </Toast.Viewport>
    </Toast.Provider>
  );
}
