import { expect, test } from "vitest";
import { corrected, valueWords } from "./corrections";

test("what was typed becomes corrections, and what is no number is named", () => {
  expect(corrected({ object: " M 1 ", e_per_adu: "0,25", gain: "", latitude_deg: "-33.9" })).toEqual({
    object: "M 1",
    e_per_adu: 0.25,
    latitude_deg: -33.9,
  });
  expect(corrected({ focal_length_mm: "long" })).toBe("focal_length_mm");
  expect(corrected({})).toEqual({});
});

test("a header's value is read without the tail of its fraction", () => {
  expect(valueWords(0.24800000000000003, "e-/ADU")).toBe("0.248 e-/ADU");
  expect(valueWords(114.20866666666667, "°, east positive")).toBe("114.2087 °");
  expect(valueWords("dark_flat", "")).toBe("dark flat");
  expect(valueWords(null, "mm")).toBe("–");
});
