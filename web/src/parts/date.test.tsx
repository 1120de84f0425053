// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, expect, it } from "vitest";
import { setTongue } from "../tongue/tongue";
import { DateField } from "./date";

afterEach(cleanup);

function Field({ max }: { max?: string }) {
  const [value, setValue] = useState("2026-11-25");
  return (
    <>
      <DateField label="Made on" value={value} max={max} onValue={setValue} />
      <output>{value}</output>
    </>
  );
}

const field = () => screen.getByLabelText("Made on") as HTMLInputElement;
async function type(text: string) {
  const user = userEvent.setup();
  await user.clear(field());
  await user.type(field(), text);
  fireEvent.blur(field());
}

it("shows and reads a day in the shop's form", async () => {
  setTongue({ locale: "en-US", gallon: "us", english: "en-US" });
  render(<Field />);
  expect(field().value).toBe("Nov 25, 2026");
  await type("dec 4, 2026");
  expect(screen.getByRole("status").textContent).toBe("2026-12-04");
  expect(field().value).toBe("Dec 4, 2026");
});

it("asks what two countries read differently", async () => {
  setTongue({ locale: "en-US", gallon: "us", english: "en-US" });
  render(<Field />);
  await type("04/12/2026");
  expect(screen.getByRole("status").textContent).toBe("2026-11-25");
  fireEvent.click(screen.getByRole("button", { name: "Made on: Apr 12, 2026" }));
  expect(screen.getByRole("status").textContent).toBe("2026-04-12");
});

it("says what is no day, and what has not come yet", async () => {
  setTongue({ locale: "en-GB" });
  render(<Field max="2026-11-30" />);
  await type("31 Feb 2026");
  expect(screen.getByRole("alert").textContent).toContain("is not a day");
  await type("1 Dec 2026");
  expect(screen.getByRole("alert").textContent).toBe("30 Nov 2026 at the latest");
});
