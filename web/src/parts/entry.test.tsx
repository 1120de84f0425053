// @vitest-environment happy-dom
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it } from "vitest";
import * as z from "zod/mini";
import { ProblemError } from "../api/client";
import { useEntry } from "./entry";
import { Foot, TextField } from "./form";
import { NumberField } from "./number";
import { needed, said, words } from "./schema";

afterEach(cleanup);

const schema = z.object({ why: said("say why"), grams: needed("how many grams?"), note: words });
type Sent = z.output<typeof schema>;

function Form({ send }: { send: (t: Sent) => Promise<unknown> }) {
  const entry = useEntry({ schema, start: { why: "", grams: null, note: "" }, names: { grams: ["counted.change_g"] }, send });
  return (
    <form {...entry.form}>
      <TextField label="Why" {...entry.text("why")} />
      <NumberField label="Grams" unit="g" allowEmpty {...entry.pick("grams")} />
      <Foot problem={entry.rest()} onLeave={() => {}}>
        Keep it
      </Foot>
    </form>
  );
}

const field = (name: string) => screen.getByRole("textbox", { name: new RegExp(name) });
const below = (name: string) => document.getElementById(field(name).getAttribute("aria-describedby") ?? "")?.textContent;
const refuses = (title: string, ...fields: { field: string; message: string }[]) => {
  throw new ProblemError({ status: 422, code: "wrong", title, fields });
};

it("says what is missing in its place, sends nothing, and brings the hand there", async () => {
  const sent: Sent[] = [];
  const user = userEvent.setup();
  render(<Form send={async (t) => sent.push(t)} />);
  await user.click(screen.getByRole("button", { name: "Keep it" }));
  await waitFor(() => expect(below("Why")).toBe("say why"));
  expect(below("Grams")).toContain("how many grams?");
  expect(document.activeElement).toBe(field("Why"));
  await user.type(field("Why"), "a spoon fell in");
  await waitFor(() => expect(field("Why").getAttribute("aria-invalid")).toBe("false"));
  expect(sent).toEqual([]);
  await user.type(field("Grams"), "12.5");
  await user.click(screen.getByRole("button", { name: "Keep it" }));
  await waitFor(() => expect(sent).toEqual([{ why: "a spoon fell in", grams: 12.5, note: "" }]));
});

it("sets what the server refuses beside the fields, and the rest at the foot", async () => {
  const user = userEvent.setup();
  render(
    <Form
      send={async () =>
        refuses(
          "That cannot be kept.",
          { field: "counted.change_g", message: "more than there is" },
          { field: "note", message: "a note is needed" },
        )
      }
    />,
  );
  await user.type(field("Why"), "counted");
  await user.type(field("Grams"), "9");
  await user.click(screen.getByRole("button", { name: "Keep it" }));
  await waitFor(() => expect(below("Grams")).toBe("more than there is"));
  expect(screen.getByText(/A note is needed/).getAttribute("role")).toBe("alert");
  expect((field("Why") as HTMLInputElement).value, "what was typed stays").toBe("counted");
});

it("says what was refused as a whole", async () => {
  const user = userEvent.setup();
  render(<Form send={async () => refuses("Somebody else has changed it.")} />);
  await user.type(field("Why"), "counted");
  await user.type(field("Grams"), "9{Enter}");
  expect(await screen.findByText("Somebody else has changed it.")).toBeTruthy();
});

it("sends once, however often it is pressed", async () => {
  const user = userEvent.setup();
  let sent = 0;
  let answer = () => {};
  const under = new Promise<void>((done) => {
    answer = done;
  });
  render(
    <Form
      send={() => {
        sent++;
        return under;
      }}
    />,
  );
  await user.type(field("Why"), "counted");
  await user.type(field("Grams"), "9");
  await user.dblClick(screen.getByRole("button", { name: "Keep it" }));
  await waitFor(() => expect(sent).toBe(1));
  answer();
  await under;
  expect(sent).toBe(1);
});

const list = z.object({ word: said("which word?") });

/** A form that is emptied for the next word once one was taken. */
function List({ take }: { take: (w: string) => void }) {
  const entry = useEntry({
    schema: list,
    start: { word: "" },
    send: async ({ word }) => {
      take(word);
      entry.reset();
    },
  });
  return (
    <fieldset>
      <TextField label="Word" {...entry.text("word")} />
      <button type="button" onClick={entry.submit}>
        Add
      </button>
    </fieldset>
  );
}

it("is emptied for the next, and says nothing of the emptiness", async () => {
  const taken: string[] = [];
  const user = userEvent.setup();
  render(<List take={(w) => taken.push(w)} />);
  const add = screen.getByRole("button", { name: "Add" });
  await user.click(add);
  await waitFor(() => expect(below("Word")).toBe("which word?"));
  await user.type(field("Word"), "flageolet");
  await user.click(add);
  await waitFor(() => expect(taken).toEqual(["flageolet"]));
  expect((field("Word") as HTMLInputElement).value).toBe("");
  expect(field("Word").getAttribute("aria-invalid")).toBe("false");
});
