// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { api } from "../../api/client";
import { SupplierList } from "./ingredientFields";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

it("shows what is said of the words that stand there, though an older answer comes later", async () => {
  const answers: ((a: unknown) => void)[] = [];
  vi.spyOn(api, "POST").mockImplementation((() => new Promise((answer) => answers.push(answer))) as never);
  render(<SupplierList label="List" value="" error="" onSave={() => {}} />);
  const field = screen.getByLabelText("List");
  fireEvent.change(field, { target: { value: "rice (white" } });
  fireEvent.change(field, { target: { value: "rice (white)" } });
  answers[1]({ data: [{ name: "rice", parts: [{ name: "white" }] }], response: new Response(null, { status: 200 }) });
  expect(await screen.findByText("1 entries: rice (1)")).toBeTruthy();
  answers[0]({
    error: { status: 422, code: "invalid", title: "", fields: [{ field: "text", message: "never closed" }] },
    response: new Response(null, { status: 422 }),
  });
  await new Promise((r) => setTimeout(r, 0));
  expect(screen.queryByText("never closed")).toBeNull();
});
