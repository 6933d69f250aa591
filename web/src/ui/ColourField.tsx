import { useEffect, useRef, useState } from "react";

interface ColourFieldProps {
  /** Its name, where no label stands around it. */
  "aria-label"?: string;
  value: string;
  /** Shown while colours are tried out. */
  onHold?: (colour: string) => void;
  /** The colour that was chosen. */
  onRelease: (colour: string) => void;
  /** As wide as the room it has. */
  wide?: boolean;
  className?: string;
}

/** A colour: tried out as long as the chooser is open, and one step once it is closed. */
export function ColourField({
  value,
  onHold,
  onRelease,
  wide,
  className,
  ...named
}: ColourFieldProps) {
  const [tried, setTried] = useState<string | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const release = useRef(onRelease);
  useEffect(() => {
    release.current = onRelease;
  });
  useEffect(() => {
    const input = field.current;
    // The page's library calls every try a change; the browser's own event comes when one was chosen.
    const chosen = () => {
      setTried(null);
      if (input) release.current(input.value);
    };
    input?.addEventListener("change", chosen);
    return () => input?.removeEventListener("change", chosen);
  }, []);
  return (
    <input
      {...named}
      ref={field}
      type="color"
      className={`border border-rule bg-sheet ${wide ? "h-[20px] w-full" : "h-[22px] w-[42px]"} ${className ?? ""}`}
      value={tried ?? value}
      onChange={(e) => {
        setTried(e.target.value);
        onHold?.(e.target.value);
      }}
    />
  );
}
