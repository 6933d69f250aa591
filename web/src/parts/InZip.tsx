import { Dialogue } from "../ui/Dialogue";
import { Dialog, RadioGroup } from "radix-ui";
import { useState } from "react";
import { importModel } from "../state/edits";
import { set, useStudio } from "../state/store";
import { size } from "./words";

/** Which of several buildings in a zip is read. */
export function InZip() {
  const inZip = useStudio((s) => s.inZip);
  const [chosen, setChosen] = useState("");
  const close = () => {
    set({ inZip: null });
    setChosen("");
  };
  if (!inZip) return null;
  const { file, up, models } = inZip;
  const wanted = chosen || (models[0]?.name ?? "");
  const read = (e: React.FormEvent) => {
    e.preventDefault();
    close();
    void importModel(file, up, wanted);
  };
  return (
    <Dialog.Root open onOpenChange={close}>
      <Dialogue
        title="Which building?"
        told={`${file.name} holds ${models.length}. One is read, with the materials and pictures it names.`}
      >
        <form onSubmit={read}>
          <RadioGroup.Root
            aria-label="Buildings in the zip"
            className="mb-4 max-h-[300px] overflow-y-auto border-y border-rule py-1"
            value={wanted}
            onValueChange={setChosen}
          >
            {models.map((m) => (
              <RadioGroup.Item
                key={m.name}
                value={m.name}
                // What the arrows lead to is chosen, also where the key is let go before the focus has moved.
                onFocus={() => setChosen(m.name)}
                className="grid w-full grid-cols-[12px_1fr_auto] items-center gap-2 px-1 py-[5px] text-left data-[state=checked]:font-semibold"
              >
                <span className="h-[11px] w-[11px] rounded-full border border-ink p-[2px]">
                  <RadioGroup.Indicator className="block h-full w-full rounded-full bg-ink" />
                </span>
                <span className="truncate">{m.name}</span>
                <span className="text-ink-2">{size(m.bytes)}</span>
              </RadioGroup.Item>
            ))}
          </RadioGroup.Root>
          <span className="flex justify-end gap-2">
            <Dialog.Close className="button" type="button">
              Cancel
            </Dialog.Close>
            <button className="button" type="submit">
              Read it
            </button>
          </span>
        </form>
      </Dialogue>
    </Dialog.Root>
  );
}
