import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { FileButton } from "./FileButton";

afterEach(cleanup);

const file = (name: string) => new File(["x"], name);

/** The button with what it gave on. */
function shown(many = false) {
  const onFiles = vi.fn();
  render(
    <FileButton label="Table" endings={[".cube", ".csp"]} many={many} onFiles={onFiles}>
      Add a table
    </FileButton>,
  );
  const names = () => onFiles.mock.calls.map(([files]) => (files as File[]).map((f) => f.name));
  return { button: screen.getByRole("button"), input: screen.getByLabelText("Table"), names };
}

describe("a button that takes files", () => {
  it("gives on what is chosen, the same file again as well, and nothing where nothing is", () => {
    const { input, names } = shown();
    expect(input).toHaveProperty("accept", ".cube,.CUBE,.csp,.CSP");
    for (const files of [[file("a.cube")], [file("a.cube")], []])
      fireEvent.change(input, { target: { files } });
    expect(names()).toEqual([["a.cube"], ["a.cube"]]);
  });

  it("takes what is let go over it, and no more than it has room for", () => {
    const { button, names } = shown();
    const dataTransfer = { files: [file("a.cube"), file("b.cube")] };
    fireEvent.dragOver(button, { dataTransfer });
    expect(button.className).toContain("outline-2");
    fireEvent.drop(button, { dataTransfer });
    expect(button.className).not.toContain("outline-2");
    expect(names()).toEqual([["a.cube"]]);
  });

  it("takes several where several are wanted", () => {
    const { button, names } = shown(true);
    fireEvent.drop(button, { dataTransfer: { files: [file("a.ies"), file("b.ldt")] } });
    expect(names()).toEqual([["a.ies", "b.ldt"]]);
  });
});
