import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { answer, api, form } from "../api/client";
import { editLook, say } from "../state/studio";
import { line, plus, SHARE, type FinishState } from "./FinishLine";
import { Section } from "./Section";

const across = (v: number) => `${v > 0 ? "+" : ""}${(v * 100).toFixed(0).replace("-", "−")} %`;

/** A picture behind the windows or the building, that only the camera sees. */
export function Backdrop({ backdrop }: { backdrop: FinishState["backdrop"] }) {
  const client = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const shelf = useQuery({
    queryKey: ["backdrops"],
    queryFn: () => answer(api.GET("/api/backdrops")),
    staleTime: Infinity,
  });
  const choose = (asset: string | null, name: string) =>
    editLook({ finish: { backdrop: { asset, name } } } as never, asset ? name : "No backdrop");
  return (
    <Section
      title="Backdrop"
      aside={
        <button className="quiet underline" onClick={() => chooser.current?.click()}>
          Add a picture
        </button>
      }
    >
      <input
        ref={chooser}
        type="file"
        accept=".jpg,.jpeg,.png,.tif,.tiff,.exr,.hdr"
        hidden
        aria-label="Backdrop file"
        onChange={async (e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (!file) return;
          try {
            const made = await answer(api.POST("/api/backdrops", form(file)));
            await client.invalidateQueries({ queryKey: ["backdrops"] });
            void choose(made.id, made.name);
          } catch (error) {
            say(error);
          }
        }}
      />
      <div className="grid grid-cols-3 gap-1" role="group" aria-label="Backdrops">
        <button
          className={`h-[46px] border text-[11.5px] ${backdrop.asset ? "border-rule text-ink-2" : "border-ink"}`}
          aria-pressed={!backdrop.asset}
          onClick={() => void choose(null, "")}
        >
          The sky itself
        </button>
        {shelf.data?.map((b) => (
          <button
            key={b.id}
            title={b.name}
            aria-label={b.name}
            aria-pressed={b.id === backdrop.asset}
            className={`h-[46px] overflow-hidden border ${b.id === backdrop.asset ? "border-ink outline-1 outline-ink" : "border-rule"}`}
            onClick={() => void choose(b.id, b.name)}
          >
            <img
              src={`/api/backdrops/${b.id}/thumbnail`}
              alt=""
              className="h-full w-full object-cover"
            />
          </button>
        ))}
      </div>
      {backdrop.asset && (
        <div className="mt-1">
          {line("backdrop", "stops", "Brightness", -6, 6, 0.1, 0, plus(1, " EV"))}
          {line("backdrop", "zoom", "Size", 0.5, 6, 0.01, 1, (v) => `${v.toFixed(2)}×`, {
            logarithmic: true,
          })}
          {line("backdrop", "across", "Across", -1, 1, 0.01, 0, across, {
            read: (t) => Number.parseFloat(t.replace("−", "-")) / 100,
          })}
          {line("backdrop", "horizon", "Its horizon", 0, 1, 0.005, 0.5, ...SHARE)}
          {line("backdrop", "blur", "Blur", 0, 1, 0.01, 0, ...SHARE)}
          {line("backdrop", "distortion", "Lens bend", -0.3, 0.3, 0.005, 0, across, {
            read: (t) => Number.parseFloat(t.replace("−", "-")) / 100,
          })}
          {line("backdrop", "match", "Match hue", 0, 1, 0.01, 0, ...SHARE)}
          <label className="flex items-center gap-2 py-[3px]">
            <input
              type="checkbox"
              className="accent-[var(--chosen)]"
              checked={backdrop.mirror}
              onChange={(e) =>
                void editLook(
                  { finish: { backdrop: { mirror: e.target.checked } } } as never,
                  "Mirror the backdrop",
                )
              }
            />
            Mirrored
          </label>
        </div>
      )}
    </Section>
  );
}
