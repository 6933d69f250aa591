// Whether the window is wide enough for the sheet to stand by itself.

import { useSyncExternalStore } from "react";

/** The same width as in `index.css`, where the columns are. */
const WIDE = "(min-width: 1700px)";

const query = () => window.matchMedia(WIDE);

export const useWide = () =>
  useSyncExternalStore(
    (changed) => {
      const asked = query();
      asked.addEventListener("change", changed);
      return () => asked.removeEventListener("change", changed);
    },
    () => query().matches,
  );
