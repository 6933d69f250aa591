import { useRef, useState, type ReactNode } from "react";
import { Tip } from "./Tip";

interface FileButtonProps {
  /** What the file is, for those who do not see the button. */
  label: string;
  /** Endings of names that are taken, with their dots. */
  endings: string[];
  many?: boolean;
  tip?: string;
  className?: string;
  onFiles: (files: File[]) => void;
  children: ReactNode;
}

/** Files are chosen by a click, or let go over the button. */
export function FileButton(p: FileButtonProps) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const take = (files: FileList | null) => {
    const taken = Array.from(files ?? []).slice(0, p.many ? undefined : 1);
    if (taken.length > 0) p.onFiles(taken);
  };
  return (
    <>
      <Tip text={p.tip}>
        <button
          type="button"
          className={`${p.className ?? "button"} ${over ? "outline-2 outline-offset-1 outline-ink" : ""}`}
          onClick={() => input.current?.click()}
          onDragOver={(e) => {
            e.preventDefault();
            e.stopPropagation();
            setOver(true);
          }}
          onDragLeave={() => setOver(false)}
          onDrop={(e) => {
            e.preventDefault();
            e.stopPropagation();
            setOver(false);
            take(e.dataTransfer.files);
          }}
        >
          {p.children}
        </button>
      </Tip>
      <input
        ref={input}
        type="file"
        // Names are written in any case.
        accept={p.endings.flatMap((end) => [end, end.toUpperCase()]).join(",")}
        multiple={p.many}
        hidden
        aria-label={p.label}
        onChange={(e) => {
          take(e.target.files);
          // The same file may be chosen again.
          e.target.value = "";
        }}
      />
    </>
  );
}
