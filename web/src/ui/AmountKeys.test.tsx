import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Amount } from "./Amount";

// The slider measures its thumb, which has no size here.
beforeEach(() =>
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  ),
);
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

/** An amount whose value follows what is held, as panels have it. */
function Held({ said }: { said: (what: string, value: number) => void }) {
  const [value, setValue] = useState(10);
  return (
    <Amount
      label="Turned"
      value={value}
      min={0}
      max={90}
      step={1}
      normal={0}
      write={String}
      onHold={(v) => {
        said("held", v);
        setValue(v);
      }}
      onRelease={(v) => said("released", v)}
    />
  );
}

describe("a slider under the keyboard", () => {
  it("holds a value before it lets go of it, and holds nothing after", () => {
    const said = vi.fn();
    render(<Held said={said} />);
    const thumb = screen.getByRole("slider", { name: "Turned" });
    fireEvent.keyDown(thumb, { key: "ArrowRight" });
    fireEvent.keyDown(thumb, { key: "ArrowRight" });
    fireEvent.keyDown(thumb, { key: "ArrowLeft" });
    expect(said.mock.calls).toEqual([
      ["held", 11],
      ["released", 11],
      ["held", 12],
      ["released", 12],
      ["held", 11],
      ["released", 11],
    ]);
  });

  it("says nothing at its end", () => {
    const said = vi.fn();
    render(<Held said={said} />);
    const thumb = screen.getByRole("slider", { name: "Turned" });
    fireEvent.keyDown(thumb, { key: "End" });
    fireEvent.keyDown(thumb, { key: "ArrowRight" });
    expect(said.mock.calls).toEqual([
      ["held", 90],
      ["released", 90],
    ]);
  });
});

describe("a typed amount", () => {
  it("is held and let go at once", () => {
    const said = vi.fn();
    render(<Held said={said} />);
    const field = screen.getByLabelText("Turned, value");
    fireEvent.change(field, { target: { value: "45" } });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(said.mock.calls).toEqual([
      ["held", 45],
      ["released", 45],
    ]);
  });
});
