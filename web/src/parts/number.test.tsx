// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, it } from "vitest";
import { setTongue } from "../tongue/tongue";
import { NumberField } from "./number";

afterEach(cleanup);

function Field({
  start = null,
  unit = "g",
  ...rest
}: {
  start?: number | null;
  unit?: string;
  reason?: [number, number];
  late?: boolean;
  density?: number;
}) {
  const [value, setValue] = useState<number | null>(start);
  return (
    <form aria-label="form">
      <NumberField label="Amount" unit={unit} allowEmpty value={value} onValue={setValue} {...rest} />
      <output>{String(value)}</output>
    </form>
  );
}

const field = () => screen.getByLabelText(/^Amount/) as HTMLInputElement;
const stands = () => screen.getByRole("status").textContent;
async function type(text: string) {
  const user = userEvent.setup();
  await user.clear(field());
  await user.type(field(), text);
}

describe("a number field of a US shop", () => {
  it("takes ounces and pounds, shows what they are, and ends in grams", async () => {
    setTongue({ locale: "en-US", gallon: "us", english: "en-US", beside: true });
    render(<Field />);
    await type("2 lb 3 oz");
    expect(stands()).toBe("992.233");
    expect(screen.getByText("= 992.233 g")).toBeTruthy();
    fireEvent.blur(field());
    expect(field().value).toBe("992.233");
    expect(screen.getByText("2 lb 3.0 oz")).toBeTruthy();
  });

  it("never keeps the beginning of what cannot be read, and does not let the form go", async () => {
    setTongue({ locale: "en-US", gallon: "us", english: "en-US" });
    render(<Field start={40} />);
    await type("9 oxen");
    expect(stands()).toBe("40");
    expect(screen.getByRole("alert").textContent).toBe("“9 oxen” is not a mass: g, kg, oz or lb");
    expect(field().checkValidity()).toBe(false);
    await type("9 oz");
    expect(stands()).toBe("255.146");
    expect(field().checkValidity()).toBe(true);
  });

  it("asks what can be read two ways, and takes neither unasked", async () => {
    setTongue({ locale: "en-US", gallon: "us", english: "en-US" });
    render(<Field start={40} />);
    await type("1,432");
    expect(stands()).toBe("40");
    expect(screen.getByRole("alert").textContent).toContain("“1,432” can be read two ways");
    fireEvent.click(screen.getByRole("button", { name: "Amount: 1\u2009432 g" }));
    expect(stands()).toBe("1432");
    expect(field().value).toBe("1432");
  });

  it("asks about a temperature out of reason, as the other degrees too", async () => {
    setTongue({ locale: "en-US", gallon: "us", english: "en-US" });
    render(<Field unit="°C" reason={[5, 45]} />);
    await type("72");
    expect(stands()).not.toBe("72");
    fireEvent.click(screen.getByRole("button", { name: "Amount: 72 °F, that is 22.2 °C" }));
    expect(stands()).toBe("22.22");
    await type("72");
    fireEvent.click(screen.getByRole("button", { name: "Amount: yes, 72 °C" }));
    expect(stands()).toBe("72");
    expect(screen.queryByRole("alert")).toBeNull();
  });

  it("takes a new figure where it once stood with the same text", async () => {
    render(<Field start={48} unit="jars" />);
    await type("4");
    await type("48");
    expect(stands()).toBe("48");
  });

  it("takes a volume for a mass by the density", async () => {
    render(<Field density={0.92} />);
    await type("8 fl oz");
    expect(stands()).toBe("217.661");
  });
});
