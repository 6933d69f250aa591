// The guide as the page shows it: the texts that lie with the application, and where in them something is told.

import { marked } from "marked";
import formats from "../../../docs/formats.md?raw";
import guide from "../../../docs/guide.md?raw";
import words from "../../../docs/words.md?raw";

/** Texts by the file they are in; a link from one to another leads to its head. */
const TEXTS = { "guide.md": guide, "words.md": words, "formats.md": formats };

/** The whole guide as HTML; links to what is not in the page are left as words. */
export function guideHtml(): string {
  const parts = Object.entries(TEXTS).map(([file, text]) => {
    const html = marked.parse(text, { async: false });
    return `<section data-text="${file}">${html}</section>`;
  });
  return parts
    .join("")
    .replace(/<a href="([^"]+)">(.*?)<\/a>/g, (_, to: string, said: string) =>
      to in TEXTS ? `<a href="#${to}">${said}</a>` : said,
    );
}

const plain = (text: string | null) =>
  (text ?? "").replace(/\s+/g, " ").replace(/…/g, "").trim().toLowerCase();

/** The passage that tells of something: where it is a term by itself, in the guide before the words, else its first mention. */
export function passage(of: HTMLElement, term: string): HTMLElement | null {
  const wanted = plain(term);
  const first = (which: string, fits: (e: HTMLElement) => boolean) =>
    [...of.querySelectorAll<HTMLElement>(which)].find(fits)?.closest<HTMLElement>("li, p, tr, h2");
  const named = (e: HTMLElement) => plain(e.textContent) === wanted;
  const whole = new RegExp(
    `(^|[^\\p{L}])${wanted.replace(/[^\p{L}\p{N} ]/gu, ".")}($|[^\\p{L}])`,
    "u",
  );
  return (
    first("h2, li > em:first-child, li > strong:first-child", named) ??
    first("strong, em, td:first-child", named) ??
    first("li, p, tr", (e) => whole.test(plain(e.textContent))) ??
    null
  );
}
