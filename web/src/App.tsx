import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { useEffect } from "react";
import { ContactStrip } from "./parts/ContactStrip";
import { ExposureLine } from "./parts/ExposureLine";
import { Home } from "./parts/Home";
import { Keys } from "./parts/Keys";
import { Picture } from "./parts/Picture";
import { Sheet } from "./parts/Sheet";
import { StagePanel } from "./parts/StagePanel";
import { TopBar } from "./parts/TopBar";
import { useStudio } from "./state/studio";
import { useWide } from "./state/wide";

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1 } } });

/** The mounted picture with what belongs under it, and one column beside it; a wide screen gives the sheet its own. */
export function App() {
  const theme = useStudio((s) => s.theme);
  const alone = useStudio((s) => s.alone);
  const home = useStudio((s) => s.home);
  const wide = useWide();
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  return (
    <QueryClientProvider client={queries}>
      {home && <Home />}
      <div hidden={home} className={`page bg-sheet text-ink ${alone ? "alone" : ""}`}>
        {!alone && <TopBar />}
        {!alone && wide && (
          <aside
            className="flex min-h-0 flex-col overflow-y-auto border-r border-rule px-[14px] pt-[10px] pb-3"
            aria-label="Sheet"
          >
            <Sheet whole />
          </aside>
        )}
        <main className="flex min-h-0 min-w-0 flex-col bg-mount">
          <Picture />
          {!alone && <ExposureLine />}
          {!alone && <ContactStrip />}
        </main>
        {!alone && <StagePanel sheet={!wide} />}
        <Keys />
      </div>
    </QueryClientProvider>
  );
}
