import { expect, test } from "vitest";
import { columnsFor } from "./columns";

test("three or four crops fill the row at any width", () => {
  expect([3, 4].map((n) => columnsFor(n, 1150))).toEqual([3, 4]);
  expect([3, 4].map((n) => columnsFor(n, 640))).toEqual([3, 2]);
  expect([3, 4].map((n) => columnsFor(n, 340))).toEqual([1, 2]);
  expect([1, 2, 2].map((n, i) => columnsFor(n, i === 2 ? 300 : 900))).toEqual([1, 2, 1]);
  // More of them than fit leave as little empty as there can be.
  expect([5, 6, 8].map((n) => columnsFor(n, 1150))).toEqual([4, 3, 4]);
});
