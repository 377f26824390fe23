import { expect, test } from "vitest";
import { byKey, type Region } from "./region";

const region: Region = { x: 10, y: -5, perArcsec: 2 };

test("arrows move the view by forty pixels, up is north", () => {
  expect(byKey("ArrowRight", false, region, undefined)?.region).toEqual({ ...region, x: 30 });
  expect(byKey("ArrowUp", false, region, undefined)?.region).toEqual({ ...region, y: 15 });
});

test("plus and minus zoom, and undo each other", () => {
  const near = byKey("+", false, region, undefined)?.region;
  expect(near?.perArcsec).toBe(2.5);
  expect(near && byKey("-", false, near, undefined)?.region?.perArcsec).toBeCloseTo(2, 12);
});

test("a box begins in the middle of the view, moves, and grows with Shift", () => {
  const box = byKey("Enter", false, region, null)?.box;
  expect(box).toEqual([-5, 10, 25, -20]);
  expect(box && byKey("ArrowLeft", false, region, box)?.box).toEqual([-7, 10, 23, -20]);
  expect(box && byKey("ArrowDown", true, region, box)?.box).toEqual([-5, 10, 25, -22]);
});

test("without measuring Enter means nothing, nor does any other key", () => {
  expect(byKey("Enter", false, region, undefined)).toBeUndefined();
  expect(byKey("a", false, region, null)).toBeUndefined();
});
