import { describe, expect, it } from "vitest";
import type { FrameInLog } from "@/api/log";
import { filtersOf, isLight, MEASURES, neighbour, utc } from "./measures";

const frame = (id: string, type: FrameInLog["type"], filter: string | null = "Ha") =>
  ({ id, type, filter, judged: { stars: 5, transparency: 0.554 } }) as unknown as FrameInLog;
const night = [frame("a", "light"), frame("b", "flat"), frame("c", "light", "OIII"), frame("d", null, null)];

describe("a night's frames", () => {
  it("are walked from light to light, and the ends hold", () => {
    expect(neighbour(night, "a", 1)?.id).toBe("c");
    expect(neighbour(night, "c", -1)?.id).toBe("a");
    expect(neighbour(night, "a", -1)?.id).toBe("a");
    expect(neighbour(night, "d", 1)?.id).toBe("d");
    expect(neighbour([], null, 1)).toBeUndefined();
  });
  it("are of the sky where they say so, or say nothing and show stars", () => {
    expect(night.map(isLight)).toEqual([true, false, true, true]);
    expect(filtersOf(night)).toEqual(["Ha", "OIII", "no filter"]);
  });
  it("have measures that are written as people read them", () => {
    const starlight = MEASURES[0];
    expect(starlight?.written(starlight.of(night[0] as FrameInLog) ?? 0)).toBe("55");
    expect(utc(1_799_623_800)).toBe("23:30");
    expect(utc(null)).toBe("");
  });
});
