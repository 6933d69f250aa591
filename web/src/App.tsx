import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { useEffect } from "react";
import { ContactStrip } from "./parts/ContactStrip";
import { ExposureLine } from "./parts/ExposureLine";
import { Keys } from "./parts/Keys";
import { Picture } from "./parts/Picture";
import { Sheet } from "./parts/Sheet";
import { StagePanel } from "./parts/StagePanel";
import { TopBar } from "./parts/TopBar";
import { useStudio } from "./state/studio";

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1 } } });

/** The whole page: the sheet beside the mounted picture, the stage panel to its right. */
export function App() {
  const theme = useStudio((s) => s.theme);
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  return (
    <QueryClientProvider client={queries}>
      <div className="relative grid h-full grid-cols-[284px_minmax(0,1fr)_276px] grid-rows-[48px_minmax(0,1fr)] bg-sheet text-ink">
        <TopBar />
        <Sheet />
        <main className="flex min-h-0 min-w-0 flex-col bg-mount">
          <Picture />
          <ExposureLine />
          <ContactStrip />
        </main>
        <StagePanel />
        <Keys />
      </div>
    </QueryClientProvider>
  );
}
