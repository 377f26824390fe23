import { describe, expect, it } from "vitest";
import { readMinutes, readOverheads, writeMinutes, writeOverheads } from "./address";

describe("a night's settings in the address", () => {
  it("come back as they were written", () => {
    const o = { settle_s: 20.5, refocus_on_change: false, refocus_every_k: null };
    expect(readOverheads(writeOverheads(o))).toEqual(o);
    expect(readMinutes(writeMinutes({ 0: 120, 2: 0 }))).toEqual({ 0: 120, 2: 0 });
  });
  it("are left out where nothing differs", () => {
    expect(writeOverheads({})).toBeNull();
    expect(writeMinutes({})).toBeNull();
    expect(readOverheads(null)).toEqual({});
  });
  it("skip what cannot be read", () => {
    expect(readOverheads("settle_s:x,9:4,flip_s:200")).toEqual({ flip_s: 200 });
    expect(readMinutes("90,x,30")).toEqual({ 0: 90, 2: 30 });
  });
});
