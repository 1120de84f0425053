// @vitest-environment happy-dom
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeAll, expect, it } from "vitest";
import { ProblemError, type Schemas } from "../../api/client";
import { ShopProvider } from "../../parts/shop";
import { ActDialog, type ActKind, type NewLotEntry } from "./acts";

beforeAll(() => {
  globalThis.ResizeObserver ??= class {
    observe() {}
    unobserve() {}
    disconnect() {}
  };
});
afterEach(cleanup);

const shop = {
  name: "Tinglaze Kitchen",
  locale: "en-GB",
  time_zone: "Europe/London",
  laws: [],
  ticks: [],
} as unknown as Schemas["ShopView"];
const lot = { code: "P1002", on_hand_g: 400, asks: "" } as unknown as Schemas["LotView"];

function opened(kind: ActKind, act: (e: NewLotEntry) => Promise<void>) {
  render(
    <ShopProvider shop={shop}>
      <ActDialog kind={kind} v={lot} act={act} onClose={() => {}} />
    </ShopProvider>,
  );
}

const field = (name: RegExp) => screen.getByRole("textbox", { name });

it("never takes a count that was left empty for nothing there", async () => {
  const sent: NewLotEntry[] = [];
  const user = userEvent.setup();
  opened("counted", async (e) => void sent.push(e));
  await user.type(field(/Why/), "the yearly count");
  await user.click(screen.getByRole("button", { name: "Put the stock right" }));
  expect((await screen.findByText("how many grams?")).getAttribute("role")).toBe("alert");
  expect(sent).toEqual([]);
  await user.type(field(/Really there/), "380");
  await user.click(screen.getByRole("button", { name: "Put the stock right" }));
  await waitFor(() => expect(sent).toEqual([{ kind: "counted", counted: { change_g: -20, reason: "the yearly count" } }]));
});

it("throws away what is left, unless less is said", async () => {
  const sent: NewLotEntry[] = [];
  const user = userEvent.setup();
  opened("thrown", async (e) => void sent.push(e));
  await user.type(field(/Why/), "mould on the lid");
  await user.click(screen.getByRole("button", { name: "Throw it away" }));
  await waitFor(() => expect(sent).toEqual([{ kind: "counted", counted: { change_g: -400, thrown: true, reason: "mould on the lid" } }]));
});

it("asks how hot a roast was, and for how long", async () => {
  const sent: NewLotEntry[] = [];
  const user = userEvent.setup();
  opened("roasted", async (e) => void sent.push(e));
  await user.type(field(/Roasted at/), "160");
  await user.click(screen.getByRole("button", { name: "Write the roast down" }));
  expect(await screen.findByText("for how long?")).toBeTruthy();
  expect(sent).toEqual([]);
});

it("sets a refusal beside the reason, and keeps what was typed", async () => {
  const user = userEvent.setup();
  opened("held", async () => {
    throw new ProblemError({
      status: 422,
      code: "invalid",
      title: "That is not it.",
      fields: [{ field: "held.reason", message: "say why, in a few words" }],
    });
  });
  await user.type(field(/Why/), "x");
  await user.click(screen.getByRole("button", { name: "Put it on hold" }));
  expect(await screen.findByText("say why, in a few words")).toBeTruthy();
  expect((field(/Why/) as HTMLInputElement).value).toBe("x");
});
