import { act } from "react";
import { createRoot } from "react-dom/client";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { Region } from "./Region";

let place: HTMLElement;
let broken = true;

function Panel() {
  if (broken) throw new Error("a fault");
  return <b>panel</b>;
}

beforeEach(() => {
  (globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;
  vi.spyOn(console, "error").mockImplementation(() => undefined);
  place = document.body.appendChild(document.createElement("div"));
  broken = true;
});
afterEach(() => {
  place.remove();
  vi.restoreAllMocks();
});

it("a fault in a region costs that region alone, and it can be shown again", () => {
  const root = createRoot(place);
  act(() =>
    root.render(
      <>
        <Region name="strip">
          <Panel />
        </Region>
        <i>the rest</i>
      </>,
    ),
  );
  expect(place.textContent).toContain("The strip could not be shown");
  expect(place.textContent).toContain("the rest");
  const again = place.querySelector("button");
  broken = false;
  act(() => again?.click());
  expect(place.textContent).toBe("panelthe rest");
  act(() => root.unmount());
});
