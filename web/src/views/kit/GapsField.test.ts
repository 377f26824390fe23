import { expect, it } from "vitest";
import { readGaps } from "./GapsField";

it("distances are read as people type them, and nothing else is", () => {
  expect(readGaps("2.5 8")).toEqual([2.5, 8]);
  expect(readGaps("2,5; 8mm")).toEqual([2.5, 8]);
  expect(readGaps("")).toEqual([]);
  for (const wrong of ["0", "60", "two", "1 2 3 4 5 6 7"]) expect(readGaps(wrong)).toBeNull();
});
