import { editLook } from "../state/edits";
import { FinishLine, type FinishState } from "./FinishLine";
import { PictureShelf } from "./PictureShelf";
import { Section } from "../ui/Section";
import { Tick } from "../ui/Tick";

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
          <FinishLine group="backdrop" name="stops" />
          <FinishLine group="backdrop" name="zoom" />
          <FinishLine group="backdrop" name="across" />
          <FinishLine group="backdrop" name="horizon" />
          <FinishLine group="backdrop" name="blur" />
          <FinishLine group="backdrop" name="distortion" />
          <FinishLine group="backdrop" name="match" />
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
