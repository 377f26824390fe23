import { expect, test } from "vitest";
import { letter, signed } from "./words";

test("kinds have letters and shares their sign", () => {
  expect([0, 1, 3].map(letter)).toEqual(["A", "B", "D"]);
  expect([0.0412, -0.2].map(signed)).toEqual(["+4.1 %", "−20.0 %"]);
});
