import { describe, expect, it } from "vitest";
import { cardsOf, shareOf } from "./strip";
import { type SourceLine } from "./look";

const line = (id: string, group = ""): SourceLine =>
  ({ id, name: id, kind: "fixture", group, silent: false }) as unknown as SourceLine;
const print = (share: number | null, headroom: number | null = 1) => ({
  share,
  lit: headroom !== null,
});
const CLOSED = { unfolded: {}, darkShown: false, order: "given" as const };
const ids = (cards: ReturnType<typeof cardsOf>) => cards.map((c) => c.id);

describe("the cards of the strip", () => {
  const sources = [line("sun"), line("sky"), line("a", "Hall"), line("b"), line("c", "Hall")];

  it("folds groups of two and more into one card where the first of them stands", () => {
    expect(ids(cardsOf(sources, {}, CLOSED, "sun"))).toEqual(["sun", "sky", "group Hall", "b"]);
    expect(ids(cardsOf(sources.slice(0, 4), {}, CLOSED, "sun"))).toEqual(["sun", "sky", "a", "b"]);
  });

  it("unfolds a group by hand, and one that holds what is chosen", () => {
    const open = ["sun", "sky", "group Hall", "a", "c", "b"];
    expect(ids(cardsOf(sources, {}, { ...CLOSED, unfolded: { Hall: true } }, "sun"))).toEqual(open);
    expect(ids(cardsOf(sources, {}, CLOSED, "c"))).toEqual(open);
    const shut = { ...CLOSED, unfolded: { Hall: false } };
    expect(ids(cardsOf(sources, {}, shut, "c"))).toHaveLength(4);
  });

  it("folds what is dark here, but neither what is chosen nor what is not known yet", () => {
    const prints = {
      sky: print(0, null),
      a: print(0, null),
      b: print(0, null),
      c: print(null, null),
    };
    expect(ids(cardsOf(sources, prints, CLOSED, "sun"))).toEqual(["sun", "sky", "c", "dark"]);
    expect(ids(cardsOf(sources, prints, CLOSED, "a"))).toEqual([
      "sun",
      "sky",
      "group Hall",
      "a",
      "c",
      "b",
    ]);
    expect(ids(cardsOf(sources, prints, { ...CLOSED, darkShown: true }, "sun"))).toEqual([
      "sun",
      "sky",
      "c",
      "dark",
      "a",
      "b",
    ]);
  });

  it("puts what adds most first when asked, a group by all it adds", () => {
    const prints = {
      sun: print(0.2),
      sky: print(0.3),
      a: print(0.15),
      c: print(0.25),
      b: print(0.1),
    };
    const cards = cardsOf(sources, prints, { ...CLOSED, order: "share" }, "sun");
    expect(ids(cards)).toEqual(["group Hall", "sky", "sun", "b"]);
    expect(shareOf([{ id: "a" }, { id: "c" }], prints)).toBeCloseTo(0.4);
    expect(shareOf([{ id: "x" }], prints)).toBeNull();
  });
});
