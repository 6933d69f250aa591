import type { Schemas } from "../api/types";
import type { AmountKind } from "../ui/Amount";

/** Decimals that steps of a size need. */
const decimals = (step: number) => Math.max(0, -Math.floor(Math.log10(step) + 1e-9));

/** Units that stand close to their number. */
const CLOSE = ["°", "×"];

/** What is set as something else than it is kept as: shares in per cent, seconds in minutes. */
const FACTORS: Record<string, number> = { "%": 100, min: 1 / 60 };

/** How a number is drawn, written and read, from what the server tells of it. */
export function scale(dial: Schemas["Dial"]): AmountKind {
  const { label, min, max, step, normal, unit, logarithmic } = dial;
  const factor = FACTORS[unit] ?? 1;
  const digits = decimals(step * factor);
  const below = unit === "-EV";
  const behind = below ? " EV" : CLOSE.includes(unit) || !unit ? unit : ` ${unit}`;
  const number = (text: string) =>
    Number.parseFloat(text.replaceAll("−", "-").replace(",", ".")) / factor;
  return {
    label,
    min,
    max,
    step,
    normal,
    logarithmic,
    write: (v) => {
      // An angle has no plus: it is a place, not a change.
      const sign = below ? "−" : min < 0 && v > 0 && unit !== "°" ? "+" : "";
      return `${sign}${(v * factor).toFixed(digits).replace("-", "−")}${behind}`;
    },
    read: below ? (text) => Math.abs(number(text)) : number,
  };
}

/** A number in another unit: `by` is what one of its own is there. */
export const times = (dial: Schemas["Dial"], by: number): Schemas["Dial"] =>
  by === 1
    ? dial
    : {
        ...dial,
        min: dial.min * by,
        max: dial.max * by,
        step: dial.step * by,
        normal: dial.normal * by,
      };
