import { expect, test } from "vitest";
import { fits } from "./fits";

const like = { title: "a", sky: { zenith: 19.3, moon: null }, rows: [{ name: "x", pair: [1, 2] }], sum: 4 };

test("the same shape with other values fits, and so does one with more rows, or without a plain value", () => {
  expect(fits({ ...like, title: "b", rows: [] }, like)).toBe(true);
  expect(fits({ ...like, rows: [like.rows[0], like.rows[0]] }, like)).toBe(true);
  expect(fits({ ...like, sum: undefined }, like)).toBe(true);
  expect(fits({ ...like, sky: { zenith: 21, moon: { altitude: 4 } } }, like)).toBe(true);
});

test("another kind of value anywhere does not fit", () => {
  for (const wrong of [
    null === undefined,
    5,
    [],
    { ...like, sky: undefined },
    { ...like, sky: "dark" },
    { ...like, rows: {} },
    { ...like, rows: [{ name: "x", pair: "1,2" }] },
    { ...like, rows: [like.rows[0], 7] },
    { ...like, sum: "4" },
  ])
    expect(fits(wrong, like), JSON.stringify(wrong)).toBe(false);
});
