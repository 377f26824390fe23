import { describe, expect, it } from "vitest";
import type { Exposure } from "@/api/client";
import { exposureOf } from "./exposureOf";

const path = (...names: (string | null)[]) =>
  names.map((name) => ({ filter: name === null ? null : { name } }) as Exposure);

describe("the exposure that a header's filter is", () => {
  it.each([
    ["Ha", 0],
    ["H-alpha", 0],
    ["OIII", 1],
    ["O3 3nm", 1],
    ["SII", 2],
    ["something else", 0],
    [null, 0],
    [undefined, 0],
  ])("%s", (name, at) => {
    expect(exposureOf(path("H-alpha 3 nm", "[O III] 3 nm", "[S II] 3 nm"), name)).toBe(at);
  });

  it("knows the letters of a wheel", () => {
    const wheel = path("Luminance", "Red", "Green", "Blue");
    expect(["L", "R", "G", "B", "Lum"].map((n) => exposureOf(wheel, n))).toEqual([0, 1, 2, 3, 0]);
  });
});
