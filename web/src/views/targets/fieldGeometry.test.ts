import { describe, expect, it } from "vitest";
import type { Extent, Framing } from "@/api/client";
import { middleOf, mosaicSize, panelsIn, placedIn, scaleFor, starColour, starRadius } from "./fieldGeometry";

const object = (east_arcmin: number, major_arcmin: number): Extent => ({
  name: "x",
  east_arcmin,
  north_arcmin: 0,
  major_arcmin,
  minor_arcmin: major_arcmin,
});

describe("the field over objects", () => {
  it("reads its place from the address, and takes nonsense for nothing", () => {
    const best = { east: 3, north: 4, angle: -60 };
    const params = new URLSearchParams("east=12.5&north=x&angle=-30");
    expect(placedIn(params, best)).toEqual({ east: 12.5, north: 4, angle: -30 });
    expect(placedIn(new URLSearchParams(), best)).toEqual(best);
  });
  it("reads panels, and takes nonsense for as many as it takes", () => {
    expect(panelsIn("3x2")).toEqual({ wide: 3, high: 2 });
    expect(["0x1", "3", "x", "21x1", "1.5x1", null].map(panelsIn)).toEqual([null, null, null, null, null, null]);
  });
  it("stands amid all that is framed, and holds it", () => {
    const two = [object(0, 30), object(100, 30)];
    expect(middleOf(two)).toEqual([50, 0]);
    expect(middleOf([])).toEqual([0, 0]);
    expect(scaleFor(two, [])).toBeLessThan(scaleFor([object(0, 30)], []));
  });
  it("counts a mosaic with its overlap", () => {
    const field = { width_arcmin: 100, height_arcmin: 60, plan: { panels_wide: 3, panels_high: 1, overlap: 0.2 } };
    const [wide, high] = mosaicSize(field as unknown as Framing);
    expect(wide).toBeCloseTo(260);
    expect(high).toBeCloseTo(60);
  });
  it("draws brighter stars larger and redder ones redder", () => {
    expect(starRadius(2)).toBeGreaterThan(starRadius(6));
    expect(starRadius(12)).toBe(0.5);
    expect(starColour(null)).toBe("var(--ink)");
    expect(new Set([-0.1, 0.3, 0.7, 1.1, 1.6].map(starColour)).size).toBe(5);
  });
});
