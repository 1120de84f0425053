import { expect, test } from "vitest";
import { counts } from "./CheckList";

const point = (state: string) => ({ key: state, title: state, state, blocks: false, why: "", answers: [] });

test("what is for the maker is counted first, and nothing that is not there", () => {
  expect(counts([point("pass"), point("decide"), point("pass")])).toBe("1 for you, 2 hold");
  expect(counts([point("fail"), point("wait"), point("note")])).toBe("1 to put right, 1 to come");
  expect(counts([])).toBe("");
});
