import { act, cleanup, render } from "@testing-library/react";
import { afterEach, beforeEach, expect, it } from "vitest";
import type { Project } from "../api/types";
import { hold } from "./held";
import { useLookOf } from "./look";
import { set } from "./store";

const settings = {
  minutes: 600,
  sun: { mode: "time", azimuth_deg: 180 },
  mix: { sky: { level: 0 } },
};

beforeEach(() =>
  set({ project: { looks: [{ id: "a", settings }] } as unknown as Project, lookId: "a" }),
);
afterEach(() => {
  cleanup();
  set({ project: null, held: null, moving: false });
});

it("draws a component anew only for the parts of the look that it names", () => {
  const drawn: unknown[] = [];
  function Clock() {
    const look = useLookOf("minutes", "sun");
    drawn.push(look);
    return null;
  }
  render(<Clock />);
  const times = drawn.length;
  act(() => hold({ look: { mix: { sky: { level: 1 } as never } } }, false));
  act(() => hold({ look: { mix: { sky: { level: 2 } as never } } }, false));
  expect(drawn.length).toBe(times);
  act(() => hold({ look: { minutes: 700 } }, true));
  expect(drawn.at(-1)).toEqual({ minutes: 700, sun: settings.sun });
  act(() => set({ held: null }));
  expect(drawn.at(-1)).toEqual({ minutes: 600, sun: settings.sun });
});
