import { expect, test } from "vitest";
import { plainColour } from "./standalone";

test("colours as browsers compute them are written as every program reads them", () => {
  expect(plainColour("rgb(255, 0, 16)")).toEqual({ colour: "#ff0010", alpha: 1 });
  expect(plainColour("rgba(1, 2, 3, 0.5)")).toEqual({ colour: "#010203", alpha: 0.5 });
  expect(plainColour("rgb(1 2 3 / 25%)")).toEqual({ colour: "#010203", alpha: 0.25 });
  expect(plainColour("color(srgb 1 0.5 0 / 0.4)")).toEqual({ colour: "#ff8000", alpha: 0.4 });
  expect(plainColour('url("#ribbon")')).toBeNull();
  expect(plainColour("none")).toBeNull();
});
