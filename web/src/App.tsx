import { Toasts } from "./ui/Toasts";
import { QueryClientProvider } from "@tanstack/react-query";
import { useEffect } from "react";
import { ContactStrip } from "./parts/ContactStrip";
import { ExposureLine } from "./parts/ExposureLine";
import { Home } from "./parts/Home";
import { InZip } from "./parts/InZip";
import { Keys } from "./parts/Keys";
import { Picture } from "./parts/Picture";
import { Region } from "./parts/Region";
import { Sheet } from "./parts/Sheet";
import { StagePanel } from "./parts/StagePanel";
import { TopBar } from "./parts/TopBar";
import { queries } from "./state/queries";
import { set, useStudio } from "./state/store";
import { useWide } from "./state/wide";
import { Tips } from "./ui/Tip";

/** The mounted picture with what belongs under it, and one column beside it; a wide screen gives the sheet its own. */
export function App() {
  const theme = useStudio((s) => s.theme);
  const alone = useStudio((s) => s.alone);
  const home = useStudio((s) => s.home);
  const problem = useStudio((s) => s.problem);
  const wide = useWide();
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  return (
    <QueryClientProvider client={queries}>
      <Tips>
        {home && (
          <Region name="list of projects">
            <Home />
          </Region>
        )}
        <div hidden={home} className={`page bg-sheet text-ink ${alone ? "alone" : ""}`}>
          {!alone && (
            <Region name="head of the page">
              <TopBar />
            </Region>
          )}
          {!alone && wide && (
            <aside
              className="flex min-h-0 flex-col overflow-y-auto border-r border-rule px-[14px] pt-[10px] pb-3"
              aria-label="Sheet"
            >
              <Region name="sheet">
                <Sheet whole />
              </Region>
            </aside>
          )}
          <main className="flex min-h-0 min-w-0 flex-col bg-mount">
            <Region name="picture" className="flex-1 text-on-mount">
              <Picture />
            </Region>
            {!alone && (
              <Region name="exposure line" className="text-on-mount">
                <ExposureLine />
              </Region>
            )}
            {!alone && (
              <Region name="strip" className="text-on-mount">
                <ContactStrip />
              </Region>
            )}
          </main>
          {!alone && (
            <Region name="side column">
              <StagePanel sheet={!wide} />
            </Region>
          )}
          <Keys />
        </div>
        <InZip />
        <Toasts text={problem} onClose={() => set({ problem: "" })} />
      </Tips>
    </QueryClientProvider>
  );
}
