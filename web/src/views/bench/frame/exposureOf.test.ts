import { beforeEach, describe, expect, it } from "vitest";
import type { Exposure } from "@/api/client";
import { exposureOf, remember } from "./exposureOf";

const path = (...names: (string | null)[]) =>
  names.map((name) => ({ filter: name === null ? null : { name } }) as Exposure);

beforeEach(() => {
  const kept = new Map<string, string>();
  Object.defineProperty(globalThis, "localStorage", {
    configurable: true,
    value: { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => void kept.set(k, v) },
  });
});

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

  it("is the one that was said before, where it is there", () => {
    const wheel = path("H-alpha 3 nm", "[O III] 3 nm");
    remember("slot 5", wheel[1]);
    expect(exposureOf(wheel, "slot 5")).toBe(1);
    expect(exposureOf(path("Luminance", "Red"), "slot 5")).toBe(0);
    localStorage.setItem("salt-lamp.filter-names", "not json");
    expect(exposureOf(wheel, "OIII")).toBe(1);
  });
});
