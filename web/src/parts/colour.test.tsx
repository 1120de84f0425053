// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { Colour } from "./colour";

afterEach(cleanup);

it("tells a colour once it is chosen, however far the pointer wandered", () => {
  const chosen = vi.fn();
  const { rerender } = render(<Colour label="Tint" value="#112233" onChosen={chosen} />);
  const field = () => screen.getByLabelText("Tint") as HTMLInputElement;
  for (const value of ["#200000", "#300000", "#400000"]) fireEvent.input(field(), { target: { value } });
  expect(chosen).not.toHaveBeenCalled();
  field().dispatchEvent(new Event("change", { bubbles: true }));
  expect(chosen.mock.calls).toEqual([["#400000"]]);
  rerender(<Colour label="Tint" value="#998877" onChosen={chosen} />);
  expect(field().value).toBe("#998877");
  field().dispatchEvent(new Event("change", { bubbles: true }));
  expect(chosen).toHaveBeenLastCalledWith("#998877");
});
