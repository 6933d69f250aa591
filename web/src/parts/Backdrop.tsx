import { editLook } from "../state/edits";
import { line, plus, SHARE, type FinishState } from "./FinishLine";
import { PictureShelf } from "./PictureShelf";
import { Section } from "../ui/Section";
import { Tick } from "../ui/Tick";

const across = (v: number) => `${v > 0 ? "+" : ""}${(v * 100).toFixed(0).replace("-", "−")} %`;

/** A picture behind the windows or the building, that only the camera sees. */
export function Backdrop({ backdrop }: { backdrop: FinishState["backdrop"] }) {
  const choose = (asset: string | null, name: string) =>
    editLook({ finish: { backdrop: { asset, name } } } as never, asset ? name : "No backdrop");
  return (
    <Section title="Backdrop">
      <PictureShelf
        label="Backdrop"
        none="The sky itself"
        asset={backdrop.asset}
        onChoose={(asset, name) => void choose(asset, name)}
      />
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
            <Tick
              checked={backdrop.mirror}
              onChange={(on) =>
                void editLook(
                  { finish: { backdrop: { mirror: on } } } as never,
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
