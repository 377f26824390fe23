import { expect, test } from "vitest";
import { followedPrice } from "./price";

test("a rig's price follows the part that was changed, and what was typed for the rest stays", () => {
  expect(followedPrice(3500, 1200, 900, 2900)).toBe(3200);
  // Without a price of its own it is that of its parts.
  expect(followedPrice(null, 1200, 900, 2900)).toBe(2900);
  expect(followedPrice(null, 1200, 900, null)).toBeNull();
  // A part without a price leaves the rig's as it was typed.
  expect(followedPrice(3500, null, 900, 2900)).toBe(3500);
  expect(followedPrice(3500, 1200, null, null)).toBe(3500);
});
