import { useQuery } from "@tanstack/react-query";
import { answer, api, form } from "../api/client";
import { FileButton } from "../ui/FileButton";
import { useChange } from "../state/queries";
import { Tip } from "../ui/Tip";

/** Pictures of the shelf to choose from, one's own added; the first choice is none. */
export function PictureShelf(p: {
  label: string;
  /** What it is without a picture. */
  none: string;
  asset: string | null;
  onChoose: (asset: string | null, name: string) => void;
}) {
  const shelf = useQuery({
    queryKey: ["backdrops"],
    queryFn: () => answer(api.GET("/api/backdrops")),
    staleTime: Infinity,
  });
  const add = useChange((file: File) => answer(api.POST("/api/backdrops", form(file))), {
    stale: "backdrops",
    then: (made) => p.onChoose(made.id, made.name),
  });
  return (
    <>
      <div className="grid grid-cols-3 gap-1" role="group" aria-label={`${p.label}s`}>
        <button
          className={`h-[46px] border text-small ${p.asset ? "border-rule text-ink-2" : "border-ink"}`}
          aria-pressed={!p.asset}
          onClick={() => p.onChoose(null, "")}
        >
          {p.none}
        </button>
        {shelf.data?.map((b) => (
          <Tip key={b.id} text={b.name}>
            <button
              aria-label={b.name}
              aria-pressed={b.id === p.asset}
              className={`h-[46px] overflow-hidden border ${b.id === p.asset ? "border-ink outline-1 outline-ink" : "border-rule"}`}
              onClick={() => p.onChoose(b.id, b.name)}
            >
              <img
                src={`/api/backdrops/${b.id}/thumbnail`}
                alt=""
                className="h-full w-full object-cover"
              />
            </button>
          </Tip>
        ))}
      </div>
      <FileButton
        label={`${p.label} file`}
        endings={[".jpg", ".jpeg", ".png", ".tif", ".tiff", ".exr", ".hdr"]}
        className="quiet underline"
        onFiles={([file]) => file && add.mutate(file)}
      >
        Add a picture
      </FileButton>
    </>
  );
}
