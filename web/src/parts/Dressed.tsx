import type { Look, Schemas } from "../api/types";
import { ask } from "../state/asking";
import { editLook } from "../state/edits";
import { hold, release } from "../state/held";
import { useLookPart } from "../state/look";
import { say } from "../state/queries";
import { useVocabulary } from "../state/vocabulary";
import { Choice } from "../ui/Choice";
import { ColourField } from "../ui/ColourField";
import { Row } from "../ui/Row";
import { Select } from "../ui/Select";
import { Tip } from "../ui/Tip";
import { DialLine } from "./DialLine";

type Dress = Schemas["Dress"];

const NONE: Look["dress"] = {};

/** What hangs before an opening in this look, and how its glass is. */
export function Dressed({ opening, alike }: { opening: string; alike: string[] }) {
  const dress = useLookPart("dress") ?? NONE;
  const { cloths, hangings, glasses } = useVocabulary();
  const mine = dress[opening];

  /** As the engine finds an opening, where this look says nothing of it yet. */
  const found = async (name: string) =>
    dress[name] ? {} : ((await ask("dress", { opening: name })).dress ?? null);
  const change = async (patch: Partial<Dress>, label: string) => {
    try {
      const one = await found(opening);
      if (one) await editLook({ dress: { [opening]: { ...one, ...patch } } } as never, label);
    } catch (error) {
      say(error);
    }
  };
  const likeThis = async () => {
    if (!mine) return;
    const { hangs, cloth, colour, drawn, tilt_deg, off_m, below_m, glass, tint, through } = mine;
    const same = { hangs, cloth, colour, drawn, tilt_deg, off_m, below_m, glass, tint, through };
    try {
      const all = await Promise.all(alike.map(async (name) => [name, await found(name)] as const));
      const made = Object.fromEntries(
        all.flatMap(([name, one]) => (one ? [[name, { ...one, ...same }]] : [])),
      );
      await editLook(
        { dress: made } as never,
        `${Object.keys(made).length} openings like ${opening}`,
      );
    } catch (error) {
      say(error);
    }
  };
  const line = (name: "drawn" | "tilt_deg" | "off_m" | "below_m" | "through", label: string) =>
    mine && (
      <DialLine
        of="dress"
        name={name}
        value={mine[name]}
        onHold={(v) => hold({ look: { dress: { [opening]: { [name]: v } } } }, true)}
        onRelease={() => void release(`${label} of ${opening}`)}
      />
    );
  return (
    <div className="py-1">
      <Row label="Before it" named>
        <Select
          label={`Before ${opening}`}
          value={mine?.hangs ?? "nothing"}
          options={hangings.map((h) => ({ value: h.id, label: h.label }))}
          onPick={(hangs) =>
            void change({ hangs: hangs as Dress["hangs"] }, `${hangs} before ${opening}`)
          }
        />
      </Row>
      {mine && mine.hangs !== "nothing" && (
        <>
          {mine.hangs !== "slats" && (
            <Row label="Cloth" named>
              <Select
                label={`Cloth before ${opening}`}
                value={mine.cloth}
                options={cloths
                  .filter((c) => c.hangs)
                  .map((c) => ({ value: c.id, label: c.label }))}
                onPick={(cloth) =>
                  void change({ cloth: cloth as Dress["cloth"] }, `Cloth before ${opening}`)
                }
              />
            </Row>
          )}
          <Row label="Colour" named>
            <ColourField
              aria-label={`Colour before ${opening}`}
              value={mine.colour}
              onRelease={(colour) => void change({ colour }, `Colour before ${opening}`)}
            />
          </Row>
          {line("drawn", "Drawn")}
          {mine.hangs === "slats" && line("tilt_deg", "Slats")}
          {line("off_m", "Distance")}
          {line("below_m", "Length")}
        </>
      )}
      <Tip
        text={
          mine?.panes.length === 0
            ? "No glass was found in this opening"
            : "The glass of this opening, in this look"
        }
      >
        <div className="pt-1">
          <Choice
            label={`Glass of ${opening}`}
            value={mine?.glass ?? "as it is"}
            options={glasses.map((g) => ({ value: g.id, label: g.label }))}
            onChoose={(glass) => void change({ glass }, `${glass} glass in ${opening}`)}
          />
        </div>
      </Tip>
      {mine && mine.glass !== "as it is" && (
        <>
          {line("through", "Light through")}
          <Row label="Tint" named>
            <ColourField
              aria-label={`Tint of ${opening}`}
              value={mine.tint}
              onRelease={(tint) => void change({ tint }, `Tint of ${opening}`)}
            />
          </Row>
          {mine.panes.length === 0 && (
            <p className="text-sun-ink">No glass was found in this opening.</p>
          )}
        </>
      )}
      {mine && alike.length > 1 && (
        <button className="quiet underline" onClick={() => void likeThis()}>
          The same for all {alike.length} of its kind
        </button>
      )}
    </div>
  );
}

/** A word for how an opening is dressed in this look. */
export function DressedAs({ opening }: { opening: string }) {
  const mine = useLookPart("dress")?.[opening];
  const { hangings } = useVocabulary();
  if (!mine || (mine.hangs === "nothing" && mine.glass === "as it is")) return null;
  const said = [
    hangings.find((h) => h.id === mine.hangs && h.id !== "nothing")?.label.toLowerCase(),
    mine.glass === "as it is" ? undefined : mine.glass,
  ];
  return <span className="text-ink-2"> · {said.filter(Boolean).join(", ")}</span>;
}
