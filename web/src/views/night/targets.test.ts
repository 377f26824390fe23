import { describe, expect, it } from "vitest";
import { readFurther, readStruckOut, struckOut, writeFurther, writeStruckOut } from "./targets";

describe("further targets in the address", () => {
  it("come back as they were written", () => {
    for (const f of [
      { what: "c:ngc-2403", change: "best_use" as const },
      { what: "b:17:2", change: "at" as const, time: "22:30", above: 30 },
      { what: "t:NGC 3031", change: "meridian" as const, before: "20:00", after: "02:15" },
    ])
      expect(readFurther(writeFurther(f))).toEqual(f);
  });
  it("are a name of the catalogue where nothing else is said, and skip what cannot be read", () => {
    expect(readFurther("NGC 3031")).toEqual({ what: "t:NGC 3031", change: "sinks" });
    expect(readFurther("c:x|never|high|25:00|9")).toEqual({ what: "c:x", change: "sinks" });
  });
});

describe("hours that are struck out", () => {
  const noon = Date.UTC(2027, 0, 28, 12) / 1000;
  const span = (from: number, to: number) => ({ from_s: noon + from * 3600, to_s: noon + to * 3600 });
  it("come back on their own evening only", () => {
    const text = writeStruckOut([span(12, 13), span(15, 16)]);
    expect(readStruckOut(text, "2027-01-28")).toEqual([span(12, 13), span(15, 16)]);
    expect(readStruckOut(text, "2027-02-03")).toEqual([]);
    expect(readStruckOut("x.y~~5", "2027-01-28")).toEqual([]);
    expect(writeStruckOut([])).toBeNull();
  });
  it("become one where they touch", () => {
    expect(struckOut([span(12, 13), span(15, 16)], span(13, 14))).toEqual([span(12, 14), span(15, 16)]);
    expect(struckOut([span(12, 13), span(15, 16)], span(12.5, 15.5))).toEqual([span(12, 16)]);
    expect(struckOut([span(15, 16)], span(12, 13))).toEqual([span(12, 13), span(15, 16)]);
  });
});
