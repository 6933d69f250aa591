import { useEffect, useState } from "react";
import { askEstimate } from "../state/asking";
import { useStudio } from "../state/store";
import { duration } from "./words";

type Needed = Awaited<ReturnType<typeof askEstimate>>;

/** How long a still will take, from the noise of the picture as it is shown now. */
export function TimeNeeded(p: {
  width: number;
  noise: number | null;
  most: number;
  count: number;
}) {
  const passes = useStudio((s) => s.frame?.passes ?? 0);
  const [needed, setNeeded] = useState<Needed | null>(null);
  const ready = passes > 0;
  // The guess gets better as the picture clears; a few times is enough.
  const step = passes < 8 ? 0 : passes < 32 ? 1 : 2;
  useEffect(() => {
    if (!ready) return;
    let current = true;
    const timer = setTimeout(() => {
      void askEstimate(p.width, p.noise).then((made) => current && setNeeded(made));
    }, 400);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [ready, step, p.width, p.noise]);
  return (
    <p className="mt-2 text-ink-2" data-testid="time-needed">
      {needed?.seconds == null
        ? "Stops at the noise or the time, whichever comes first."
        : needed.seconds > p.most
          ? `The noise would take about ${duration(needed.seconds)}; it stops at ${duration(p.most)}, a little noisier.`
          : `${needed.sure ? "About" : "Roughly"} ${duration(needed.seconds)}${p.count > 1 ? " each, by this view" : ""}, ${needed.passes} passes.`}
    </p>
  );
}
