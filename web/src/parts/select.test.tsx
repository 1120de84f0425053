// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, beforeAll, expect, it } from "vitest";
import { SelectField } from "./select";

// what the list of Radix asks of a browser and the stand-in for one does not have
beforeAll(() => {
  Element.prototype.hasPointerCapture = () => false;
  Element.prototype.scrollIntoView = () => {};
});
afterEach(cleanup);

const STORAGE = [
  ["", "not said"],
  ["chilled", "in the cold"],
  ["ambient", "on the shelf"],
] as const;

function Field({ error = "", disabled = false }: { error?: string; disabled?: boolean }) {
  const [value, setValue] = useState("chilled");
  return (
    <>
      <SelectField label="Kept" value={value} onValue={setValue} options={STORAGE} error={error} disabled={disabled} />
      <output>{value || "nothing"}</output>
    </>
  );
}

const field = () => screen.getByRole("combobox", { name: "Kept" });

it("is named by its label and shows what is chosen", () => {
  render(<Field />);
  expect(field().textContent).toContain("in the cold");
  expect(field().dataset.value).toBe("chilled");
});

it("draws a long list only once somebody comes to it", () => {
  let drawn = 0;
  const zones = Array.from({ length: 150 }, (_, i) =>
    Object.defineProperty([`zone ${i}`, ""] as [string, string], 1, {
      get() {
        drawn++;
        return `Zone ${i}`;
      },
    }),
  );
  render(<SelectField label="Time zone" value="zone 7" onValue={() => {}} options={zones} />);
  const trigger = screen.getByRole("combobox", { name: "Time zone" });
  expect(trigger.textContent).toContain("Zone 7");
  expect(drawn).toBeLessThan(10);
  fireEvent.focus(trigger);
  expect(drawn).toBeGreaterThan(150);
});

it("opens and chooses by the keyboard alone", async () => {
  const user = userEvent.setup();
  render(<Field />);
  field().focus();
  await user.keyboard("{Enter}");
  expect(screen.getAllByRole("option").map((o) => o.textContent)).toEqual(["not said", "in the cold", "on the shelf"]);
  screen.getByRole("option", { name: "on the shelf" }).focus();
  await user.keyboard("{Enter}");
  expect(screen.getByRole("status").textContent).toBe("ambient");
  expect(screen.queryByRole("option")).toBeNull();
});

it("chooses by a first letter without opening", async () => {
  const user = userEvent.setup();
  render(<Field />);
  field().focus();
  await user.keyboard("o");
  expect(screen.getByRole("status").textContent).toBe("ambient");
});

it("knows that nothing is a choice too", async () => {
  const user = userEvent.setup();
  render(<Field />);
  field().focus();
  await user.keyboard("{Enter}");
  screen.getByRole("option", { name: "not said" }).focus();
  await user.keyboard("{Enter}");
  expect(screen.getByRole("status").textContent).toBe("nothing");
  expect(field().textContent).toContain("not said");
});

it("says what is wrong with what was chosen, and does not open where nothing may be", () => {
  render(<Field error="garlic under oil is kept in the cold" />);
  expect(field().getAttribute("aria-invalid")).toBe("true");
  expect(document.getElementById(field().getAttribute("aria-describedby") ?? "")?.textContent).toContain("garlic under oil");
  cleanup();
  render(<Field disabled />);
  fireEvent.keyDown(field(), { key: "Enter" });
  expect(screen.queryByRole("option")).toBeNull();
});
