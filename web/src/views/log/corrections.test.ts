import { expect, test } from "vitest";
import { corrected } from "./corrections";

test("what was typed becomes corrections, and what is no number is named", () => {
  expect(corrected({ object: " M 1 ", e_per_adu: "0,25", gain: "", latitude_deg: "-33.9" })).toEqual({
    object: "M 1",
    e_per_adu: 0.25,
    latitude_deg: -33.9,
  });
  expect(corrected({ focal_length_mm: "long" })).toBe("focal_length_mm");
  expect(corrected({})).toEqual({});
});
