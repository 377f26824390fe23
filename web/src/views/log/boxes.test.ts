import { expect, test } from "vitest";
import { boxOf, movedByKey } from "./boxes";

test("a box is a square in whole pixels that stays on the frame", () => {
  expect(boxOf({ x: 0.5, y: 0.5 }, 0.1, [640, 480])).toEqual({ x: 296, y: 216, width: 48, height: 48 });
  expect(boxOf({ x: 1, y: 0 }, 0.1, [640, 480])).toEqual({ x: 592, y: 0, width: 48, height: 48 });
  expect(boxOf({ x: 0.5, y: 0.5 }, 0.001, [640, 480]).width).toBe(8);
});

test("arrows move a mark, and never off the frame", () => {
  expect(movedByKey({ x: 0.5, y: 0.5 }, "ArrowLeft", false).x).toBeCloseTo(0.49);
  expect(movedByKey({ x: 0.5, y: 0.98 }, "ArrowDown", true)).toEqual({ x: 0.5, y: 1 });
  const mark = { x: 0.2, y: 0.3 };
  expect(movedByKey(mark, "x", false)).toBe(mark);
});
