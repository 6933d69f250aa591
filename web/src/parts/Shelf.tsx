import { Scroll } from "../ui/Scroll";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, form, Refusal } from "../api/client";
import { set, useStudio } from "../state/store";
import { Luminaire } from "./Luminaire";
import { Section } from "../ui/Section";
import { FileButton } from "../ui/FileButton";
import { useChange } from "../state/queries";
import { Tip } from "../ui/Tip";

/** Photometric files: choose one to place it, or bring your own. */
export function Shelf() {
  const shelf = useQuery({
    queryKey: ["photometry"],
    queryFn: () => answer(api.GET("/api/photometry")),
    staleTime: Infinity,
  });
  const chosenId = useStudio((s) => s.luminaire);
  const placing = useStudio((s) => s.placing);
  const [wanted, setWanted] = useState("");
  const chosen = shelf.data?.find((l) => l.asset === chosenId);
  const found = shelf.data?.filter((l) =>
    [l.name, ...l.tags].join(" ").toLowerCase().includes(wanted.toLowerCase()),
  );
  const bring = useChange(
    async (file: File) => {
      try {
        return await answer(api.POST("/api/photometry", form(file)));
      } catch (error) {
        // Of several files it must be clear which one it was.
        throw error instanceof Refusal ? new Refusal(`${file.name}: ${error.message}`) : error;
      }
    },
    { stale: "photometry", then: (card) => set({ luminaire: card.asset }) },
  );
  return (
    <Section
      title="Photometric shelf"
      aside={
        <FileButton
          label="Photometric files"
          endings={[".ies", ".ldt", ".xml"]}
          many
          className="quiet underline"
          onFiles={(files) => files.forEach((file) => bring.mutate(file))}
        >
          Add files
        </FileButton>
      }
    >
      <input
        className="entry mb-1 w-full"
        placeholder="Search: name, narrow, wide, batwing, up …"
        aria-label="Search the shelf"
        value={wanted}
        onChange={(e) => setWanted(e.target.value)}
      />
      <Scroll className="max-h-[124px]">
        <ul aria-label="Photometric files">
          {found?.map((l) => (
            <li key={l.asset}>
              <button
                className={`flex w-full justify-between gap-2 border-l-2 py-[2px] pl-2 text-left ${l.asset === chosenId ? "border-sun font-[650]" : "border-transparent text-ink-2 hover:text-ink"}`}
                aria-pressed={l.asset === chosenId}
                onClick={() => set({ luminaire: l.asset })}
              >
                <span className="truncate">{l.name}</span>
                <span className="shrink-0 font-normal text-ink-2">
                  {l.remarks.length > 0 && (
                    <Tip text={l.remarks.join(" ")}>
                      <span>doubtful · </span>
                    </Tip>
                  )}
                  {l.flux_lm.toFixed(0)} lm
                </span>
              </button>
            </li>
          ))}
          {found?.length === 0 && <li className="text-ink-2">No file of that name.</li>}
        </ul>
      </Scroll>
      {chosen && <Luminaire of={chosen} />}
      <button
        className={`button mt-2 w-full ${placing === "photometric" ? "bg-chosen! text-on-chosen" : ""}`}
        disabled={!chosen}
        aria-pressed={placing === "photometric"}
        onClick={() => set({ placing: placing === "photometric" ? null : "photometric" })}
      >
        {chosen ? `Place ${chosen.name}` : "Choose a file to place it"}
      </button>
    </Section>
  );
}
