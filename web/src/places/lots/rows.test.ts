import { describe, expect, it } from "vitest";
import { asNewLot, asText, dayOf, EMPTY, isTyped, paste, wrongFigures } from "./rows";

describe("rows of a delivery note", () => {
  it("puts pasted cells where the hand is, and adds rows", () => {
    const out = paste([{ ...EMPTY, pack: "1 kg" }], 0, "ingredient", "Tahini\t3 kg\tTAH/77\t28/02/2027\t£22.50\r\nCumin\t500 g\n", true);
    expect(out).toHaveLength(2);
    expect(out[0]).toMatchObject({ ingredient: "Tahini", pack: "3 kg", text: "TAH/77", ends: "2027-02-28", cost: "22.50" });
    expect(out[1]).toMatchObject({ ingredient: "Cumin", pack: "500 g", accept: true });
  });
  it("pastes from the middle and drops what has no column", () => {
    const out = paste([EMPTY, EMPTY], 1, "statement", "cert 4\tmore", false);
    expect(out[0]).toEqual(EMPTY);
    expect(out[1]).toMatchObject({ statement: "cert 4", note: "" });
  });
  it("leaves a day alone that can be read two ways", () => {
    expect(dayOf("03/04/2027")).toBe("03/04/2027");
    expect(dayOf("04.04.2027")).toBe("2027-04-04");
    expect(dayOf("12/25/2026")).toBe("2026-12-25");
    expect(dayOf("2026-12-25")).toBe("2026-12-25");
    expect(dayOf("soon")).toBe("soon");
  });
  it("asks about figures that are none, or two", () => {
    expect(Object.keys(wrongFigures({ ...EMPTY, cost: "1,432", arrival_c: "4,5", ph: "sour" }))).toEqual(["cost", "ph"]);
    expect(wrongFigures({ ...EMPTY, cost: "0.125" })).toEqual({});
  });
  it("sends nothing for what is empty, and no refusal of what is accepted", () => {
    const sent = asNewLot({ ...EMPTY, ingredient: " Tahini ", pack: "3 kg", cost: "22,5", accept: true, refuse: "torn" });
    expect(sent).toMatchObject({ ingredient: "Tahini", cost: 22.5, arrival_c: null, refuse: "", accept: true });
    expect(asText(sent, false)).toMatchObject({ ingredient: "Tahini", cost: "22.5", arrival_c: "", accept: false });
  });
  it("knows an untouched row", () => {
    expect(isTyped({ ...EMPTY, accept: true })).toBe(false);
    expect(isTyped({ ...EMPTY, text: "x" })).toBe(true);
  });
});
