// @vitest-environment happy-dom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, createEvent, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { MemoryRouter } from "react-router";
import { afterEach, beforeAll, expect, it, vi } from "vitest";
import { api, type Problem, type Schemas } from "../../api/client";
import { ShopProvider } from "../../parts/shop";
import { Grid } from "./Grid";
import type { Version } from "./useDraft";

const NONE = { fat: 0, water: 1, acid: 0, salt: 0, sugar: 0, other: 0 };
const names: Record<string, string> = { carrot: "Carrot, raw", vinegar: "Rice vinegar", miso: "White miso" };

beforeAll(() => {
  globalThis.ResizeObserver ??= class {
    observe() {}
    unobserve() {}
    disconnect() {}
  };
  vi.spyOn(api, "GET").mockImplementation((async (path: string) => ({
    data:
      path === "/ingredients"
        ? Object.entries(names).map(([id, name]) => ({ id, name, called: [], density_g_ml: id === "vinegar" ? 1.01 : 0, per_kg: 2 }))
        : [],
    response: new Response(null, { status: 200 }),
  })) as never);
});
afterEach(cleanup);

const started = {
  formula: "carrot_miso",
  fill_g: 190,
  loss_percent: 3,
  overfill_percent: 1,
  lines: [
    { id: "a", ingredient: "carrot", grams: 300, phase: "" },
    { id: "b", ingredient: "vinegar", grams: 236, phase: "" },
    { id: "c", ingredient: "miso", grams: 72, phase: "" },
  ],
} as unknown as Version;

const panelOf = (v: Version) =>
  ({
    grams: v.lines.reduce((sum, l) => sum + l.grams, 0),
    jars: 3,
    make_up: NONE,
    cost: { ingredients: 1.2 },
    lines: v.lines.map((l) => ({ id: l.id, name: names[l.ingredient ?? ""], grams: l.grams, percent: 10, make_up: NONE, per_jar: 0.1 })),
  }) as unknown as Schemas["Panel"];

interface Told {
  locked: boolean;
  problem: Problem | null;
  /** What each edit was called. */
  edits: string[];
  latest: { version: Version };
}

function Sheet({ locked, problem, edits, latest }: Told) {
  const [version, setVersion] = useState(started);
  latest.version = version;
  return (
    <Grid
      version={version}
      panel={panelOf(version)}
      problem={problem}
      locked={locked}
      footer=""
      edit={(what, change) => {
        edits.push(what);
        setVersion(change);
      }}
    />
  );
}

/** Draws a sheet with its lines, and tells what became of it. */
function sheet(as: Partial<Pick<Told, "locked" | "problem">> = {}) {
  const told: Told = { locked: false, problem: null, edits: [], latest: { version: started }, ...as };
  const shop = { locale: "en-GB", time_zone: "Europe/London", gallon: "imperial", english: "en-GB" } as Schemas["ShopView"];
  render(
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter>
        <ShopProvider shop={shop}>
          <Sheet {...told} />
        </ShopProvider>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  return told;
}

const cell = (name: string) => screen.getByLabelText(`Grams of ${name}`) as HTMLInputElement;
const grams = (v: Version) => v.lines.map((l) => l.grams);

it("moves by arrows and Enter from weight to weight", async () => {
  const user = userEvent.setup();
  sheet();
  await user.click(cell("Carrot, raw"));
  await user.keyboard("{Enter}");
  expect(document.activeElement).toBe(cell("Rice vinegar"));
  await user.keyboard("{ArrowDown}");
  expect(document.activeElement).toBe(cell("White miso"));
  await user.keyboard("{ArrowUp}");
  expect(document.activeElement).toBe(cell("Rice vinegar"));
});

it("names an edit by what stood there and what stands now", async () => {
  const user = userEvent.setup();
  const s = sheet();
  await user.clear(cell("White miso"));
  await user.type(cell("White miso"), "75{Enter}");
  expect(grams(s.latest.version)).toEqual([300, 236, 75]);
  expect(s.edits.at(-1)).toBe("White miso 72.0 to 75.0 g");
});

it("keeps what cannot be read in its cell, and what stood there on the sheet", async () => {
  const user = userEvent.setup();
  const s = sheet();
  await user.clear(cell("White miso"));
  await user.type(cell("White miso"), "a bit");
  await user.keyboard("{Enter}");
  expect(cell("White miso").value).toBe("a bit");
  expect(cell("White miso").getAttribute("aria-invalid")).toBe("true");
  expect(screen.getByRole("alert").textContent).not.toBe("");
  expect(document.activeElement).toBe(cell("White miso"));
  expect(grams(s.latest.version)).toEqual([300, 236, 72]);
  await user.keyboard("{Escape}");
  expect(cell("White miso").value).toBe("72.0");
});

it("moves a line by Alt and an arrow, and the focus with it", () => {
  const s = sheet();
  cell("Rice vinegar").focus();
  fireEvent.keyDown(cell("Rice vinegar"), { key: "ArrowUp", altKey: true });
  expect(s.latest.version.lines.map((l) => l.id)).toEqual(["b", "a", "c"]);
  expect(document.activeElement).toBe(cell("Rice vinegar"));
});

function paste(name: string, text: string) {
  const event = createEvent.paste(cell(name), { clipboardData: { getData: () => text } });
  fireEvent(cell(name), event);
}

it("takes a pasted column from where it was pasted", () => {
  const s = sheet();
  paste("Rice vinegar", "230\n70");
  expect(grams(s.latest.version)).toEqual([300, 230, 70]);
});

it("takes nothing of a column that is too long or cannot be read, and shows it", () => {
  const s = sheet();
  paste("White miso", "70\n71");
  expect(screen.getByText(/The column has 2 rows and one line stands from here on/)).toBeTruthy();
  expect((screen.getByLabelText("Pasted, and not on the sheet") as HTMLTextAreaElement).value).toBe("70\n71");
  fireEvent.click(screen.getByRole("button", { name: "Let them go" }));
  paste("Carrot, raw", "300\nsome");
  expect(screen.getByLabelText("Pasted, and not on the sheet")).toBeTruthy();
  expect(grams(s.latest.version)).toEqual([300, 236, 72]);
});

it("says at its line what the server did not take", () => {
  sheet({
    problem: { status: 422, code: "invalid", title: "", fields: [{ field: "lines[1].grams", message: "more than a batch holds" }] },
  });
  expect(screen.getByRole("alert").textContent).toBe("more than a batch holds. Nothing of this edit is stored yet.");
  expect(cell("Rice vinegar").getAttribute("aria-invalid")).toBe("true");
  expect(cell("White miso").getAttribute("aria-invalid")).toBe("false");
});

it("is text, not fields, once it is locked", () => {
  sheet({ locked: true });
  expect(screen.queryByRole("textbox")).toBeNull();
  expect(screen.getByText("236.0")).toBeTruthy();
});
