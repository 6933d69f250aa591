import { Row } from "../ui/Row";
import type { Fixture, Project } from "../api/types";
import { Amount } from "../ui/Amount";
import { amount } from "./words";
import { Select } from "../ui/Select";

export type PerLumen = NonNullable<Project["sources"][number]["per_lumen"]>;
type Unit = Fixture["unit"];

const UNITS: Unit[] = ["lm", "cd", "cd/m²", "lx at 1 m", "W"];

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
  const said = UNITS.map((u) => {
    const one = p.perLumen?.[u] ?? null;
    return u === unit || one === null ? null : `${amount(lumen * one)} ${u}`;
  }).filter(Boolean);
  return (
    <>
      <Amount
        label="Amount"
        value={lumen * factor}
        min={5 * factor}
        max={50_000 * factor}
        step={10 * factor}
        normal={1000 * factor}
        logarithmic
        write={(v) =>
          `${unit === "lm" && v >= 100 ? v.toFixed(0) : amount(v)} ${unit.replace(" at 1 m", "")}`
        }
        read={(t) => Number.parseFloat(t.replace(/\s/g, "").replace(",", "."))}
        onHold={(v) => p.onHold(v / factor)}
        onRelease={p.onRelease}
      />
      <Row label="Unit" named>
        <Select
          label="Unit of the amount"
          value={unit}
          options={UNITS.map((u) => ({
            value: u,
            label: u === "cd" ? "cd straight ahead" : u,
            // A point has no face to be bright.
            disabled: (p.perLumen?.[u] ?? null) === null,
          }))}
          onPick={(u) => p.onUnit(u as Unit)}
        />
      </Row>
      {unit === "W" && (
        <Amount
          label="Efficacy"
          value={efficacy}
          min={5}
          max={250}
          step={1}
          normal={90}
          write={(v) => `${v.toFixed(0)} lm/W`}
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
