import { useVocabulary } from "../state/vocabulary";
import { Row } from "../ui/Row";
import type { Fixture, Project } from "../api/types";
import { amount } from "./words";
import { Select } from "../ui/Select";
import { DialLine } from "./DialLine";

export type PerLumen = NonNullable<Project["sources"][number]["per_lumen"]>;
type Unit = Fixture["unit"];

/** A fixture's amount in the unit the artist thinks in; the others stand below. */
export function AmountOfLight(p: {
  fixture: Fixture;
  perLumen: PerLumen | null;
  onHold: (lumen: number) => void;
  onRelease: () => void;
  onUnit: (unit: Unit) => void;
  onEfficacy: (efficacy: number) => void;
}) {
  const { lumen, unit, efficacy } = p.fixture;
  const factor = p.perLumen?.[unit] ?? 1;
  const { units } = useVocabulary();
  const said = units
    .map(({ id }) => {
      const one = p.perLumen?.[id] ?? null;
      return id === unit || one === null ? null : `${amount(lumen * one)} ${id}`;
    })
    .filter(Boolean);
  const short = units.find((u) => u.id === unit)?.short ?? unit;
  return (
    <>
      <DialLine
        of="fixture"
        name="lumen"
        by={factor}
        value={lumen * factor}
        write={(v) => `${unit === "lm" && v >= 100 ? v.toFixed(0) : amount(v)} ${short}`}
        read={(t) => Number.parseFloat(t.replace(/\s/g, "").replace(",", "."))}
        onHold={(v) => p.onHold(v / factor)}
        onRelease={p.onRelease}
      />
      <Row label="Unit" named>
        <Select
          label="Unit of the amount"
          value={unit}
          options={units.map((u) => ({
            value: u.id,
            label: u.label,
            // A point has no face to be bright.
            disabled: (p.perLumen?.[u.id] ?? null) === null,
          }))}
          onPick={(u) => p.onUnit(u as Unit)}
        />
      </Row>
      {unit === "W" && (
        <DialLine
          of="fixture"
          name="efficacy"
          value={efficacy}
          onHold={() => undefined}
          onRelease={p.onEfficacy}
        />
      )}
      <p className="pb-1 text-small text-ink-2" data-testid="other-units">
        {said.join(" · ")}
      </p>
    </>
  );
}
