import { describe, expect, it } from "vitest";
import { commandsOf, SECTIONS } from "./commands";
import { guideHtml, passage } from "./guide";

const text = document.createElement("div");
text.innerHTML = guideHtml();
const told = (term: string) => passage(text, term)?.textContent ?? "";

describe("the guide", () => {
  it("tells of every command, and of every section where it is meant by name", () => {
    const all = commandsOf(null, []);
    const lost = all.filter((c) => !passage(text, c.about)).map((c) => c.about);
    expect(lost).toEqual([]);
    const terms = [...text.querySelectorAll("h2, strong, em, td:first-child")].map((e) =>
      e.textContent?.toLowerCase(),
    );
    const unnamed = SECTIONS.map(([, title]) => title).filter(
      (t) => !terms.includes(t.toLowerCase()),
    );
    expect(unnamed).toEqual([]);
    expect(all.length).toBeGreaterThan(60);
  });
  it("is found by a term before a mention, and by whole words", () => {
    expect(told("Pattern map")).toContain("scores every position of the sun");
    expect(told("LUT")).not.toContain("Late");
    expect(told("Openings")).toContain("windows and doorways that were found");
    expect(told("CDL")).toContain("slope, offset and power");
    expect(told("efficacy")).toContain("lumen from a watt");
    expect(passage(text, "no such thing")).toBeNull();
  });
  it("keeps links between its texts and leaves others as words", () => {
    const links = [...text.querySelectorAll("a")].map((a) => a.getAttribute("href"));
    expect(new Set(links)).toEqual(new Set(["#words.md", "#formats.md"]));
    expect(text.textContent).toContain("cluster.md");
  });
});
