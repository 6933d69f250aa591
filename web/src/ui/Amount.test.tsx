import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Amount, type AmountProps } from "./Amount";

vi.stubGlobal(
  "ResizeObserver",
  class {
    observe() {}
    unobserve() {}
    disconnect() {}
  },
);
afterEach(cleanup);

/** An amount on the page, with what it held and what it let go of. */
function shown(over: Partial<AmountProps> = {}) {
  const held: number[] = [];
  const released: number[] = [];
  render(
    <Amount
      label="Height"
      value={2}
      min={-10}
      max={10}
      step={0.1}
      normal={1.6}
      write={(v) => `${v.toFixed(1)} m`.replace("-", "−")}
      onHold={(v) => held.push(v)}
      onRelease={(v) => released.push(v)}
      {...over}
    />,
  );
  const field = screen.getByLabelText<HTMLInputElement>("Height, value");
  const type = (text: string, key = "Enter") => {
    fireEvent.change(field, { target: { value: text } });
    fireEvent.keyDown(field, { key });
  };
  return { held, released, field, type };
}

describe("a slider", () => {
  it("that is drawn away and back lets go of what it held", () => {
    const { held, released } = shown({ min: 0, max: 10, value: 5, step: 1, normal: 0 });
    const thumb = screen.getByRole("slider");
    const root = thumb.closest<HTMLElement>("[data-orientation].relative");
    if (!root) throw new Error("no slider");
    let caught = false;
    Object.assign(HTMLElement.prototype, {
      setPointerCapture: () => (caught = true),
      releasePointerCapture: () => (caught = false),
      hasPointerCapture: () => caught,
    });
    root.getBoundingClientRect = () => ({ left: 0, width: 100 }) as DOMRect;
    const at = (clientX: number) => ({ clientX, pointerId: 1, button: 0 });
    fireEvent.pointerDown(root, at(50));
    fireEvent.pointerMove(root, at(80));
    fireEvent.pointerMove(root, at(50));
    fireEvent.pointerUp(root, at(50));
    fireEvent.lostPointerCapture(root, at(50));
    expect(held).toContain(8);
    expect(released).toEqual([5]);
  });
});

it("does what it was told last, though nothing of it was drawn anew", () => {
  const given: string[] = [];
  const amount = (name: string) => (
    <Amount
      label="Height"
      value={2}
      min={0}
      max={10}
      step={0.1}
      normal={1}
      write={String}
      onHold={() => undefined}
      onRelease={(v) => given.push(`${name} ${v}`)}
    />
  );
  const { rerender } = render(amount("first"));
  rerender(amount("second"));
  const field = screen.getByLabelText<HTMLInputElement>("Height, value");
  fireEvent.change(field, { target: { value: "3" } });
  fireEvent.keyDown(field, { key: "Enter" });
  expect(given).toEqual(["second 3"]);
});

describe("a quantity that is typed", () => {
  it("is read with a point or a comma, a true minus, and a unit or none", () => {
    const { type, released } = shown();
    type("3.24");
    type("3,3");
    type("−1.5 m");
    type("-2");
    expect(released).toEqual([3.2, 3.3, -1.5, -2]);
  });
  it("stays within its bounds", () => {
    const { type, released } = shown();
    type("1000");
    type("-1000");
    expect(released).toEqual([10, -10]);
  });
  it("may lie beyond a slider that only spans what is near, the slider may not", () => {
    const { type, released, field } = shown({ anywhere: true });
    type("120");
    fireEvent.keyDown(field, { key: "ArrowUp", shiftKey: true });
    expect(released).toEqual([120, 3]);
    const slider = screen.getByRole("slider", { name: "Height" });
    fireEvent.keyDown(slider, { key: "End" });
    expect(released.at(-1)).toBe(10);
  });
  it("that is no number, or is given up, changes nothing", () => {
    const { type, released, field } = shown();
    type("tall");
    expect(field.value).toBe("2.0 m");
    type("7", "Escape");
    fireEvent.blur(field);
    expect(field.value).toBe("2.0 m");
    expect(released).toEqual([]);
  });
  it("is taken when the field is left", () => {
    const { released, field } = shown();
    fireEvent.change(field, { target: { value: "4" } });
    fireEvent.blur(field);
    expect(released).toEqual([4]);
  });
});

describe("a quantity that is nudged", () => {
  it("moves by its step, coarse with Shift, fine with Alt", () => {
    const { released, field } = shown();
    fireEvent.keyDown(field, { key: "ArrowUp" });
    fireEvent.keyDown(field, { key: "ArrowDown", shiftKey: true });
    fireEvent.keyDown(field, { key: "ArrowUp", altKey: true });
    expect(released).toEqual([2.1, 1, 2.01]);
  });
  it("on a logarithm moves by thirds of a stop", () => {
    const { released, field } = shown({ logarithmic: true, min: 0.001, max: 1e6, value: 100 });
    fireEvent.keyDown(field, { key: "ArrowUp" });
    fireEvent.keyDown(field, { key: "ArrowDown" });
    expect(released[0]).toBeCloseTo(100 * 2 ** (1 / 3), 3);
    expect(released[1]).toBeCloseTo(100 / 2 ** (1 / 3), 3);
  });
});

describe("a quantity by its label", () => {
  const label = () => screen.getByText("Height");
  it("follows a drag, ten times finer with Alt, and is let go of once", () => {
    Element.prototype.setPointerCapture = () => {};
    const { held, released } = shown();
    // jsdom has no pointer events of its own: those of a mouse carry the place.
    const at = (type: string, clientX: number, altKey = false) =>
      fireEvent(label(), new MouseEvent(type, { bubbles: true, clientX, altKey }));
    at("pointerdown", 100);
    at("pointermove", 116);
    at("pointermove", 116, true);
    at("pointerup", 116, true);
    // A tenth of the way of 160 px is a tenth of the span of 20.
    expect(held).toEqual([4, 2.2]);
    expect(released).toEqual([2.2]);
    at("pointermove", 150);
    expect(held.length).toBe(2);
  });
  it("goes back to what is usual by a double click", () => {
    const { released } = shown();
    fireEvent.doubleClick(label());
    expect(released).toEqual([1.6]);
  });
  it("does not move while it is switched off", () => {
    const { held, field } = shown({ disabled: true });
    fireEvent(label(), new MouseEvent("pointerdown", { bubbles: true, clientX: 0 }));
    fireEvent(label(), new MouseEvent("pointermove", { bubbles: true, clientX: 50 }));
    expect(held).toEqual([]);
    expect(field.disabled).toBe(true);
  });
});
