import { expect, test } from "vitest";
import { chosen, type Groups, picked, placeOf } from "./places";

test("pictures stand one after another, or as good as the last", () => {
  let groups: Groups = [];
  groups = picked(groups, 2, true);
  groups = picked(groups, 0, false);
  groups = picked(groups, 1, true);
  expect(groups).toEqual([[2], [0, 1]]);
  expect([0, 1, 2].map((i) => placeOf(groups, i))).toEqual([1, 1, 0]);
  expect(chosen(groups)).toBe(3);
});

test("what is picked again is taken out, and leaves no empty place", () => {
  const groups = picked([[2], [0, 1]], 2, false);
  expect(groups).toEqual([[0, 1]]);
  expect([placeOf(groups, 2), chosen(picked(groups, 0, false))]).toEqual([-1, 1]);
});
