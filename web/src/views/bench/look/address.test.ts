import { describe, expect, it } from "vitest";
import { readView, writeView } from "./address";

const usual = { time_fraction: 1, palette: "natural", truth: false, seed: 1 };

describe("a look in the address", () => {
  it("says only what differs, and is read back", () => {
    const view = { time_fraction: 0.25, palette: "hoo", truth: true, seed: 1 };
    const text = writeView(view, usual);
    expect(text).toBe("time_fraction:0.25,palette:hoo,truth:true");
    expect(readView(text, usual)).toEqual(view);
    expect(writeView(usual, usual)).toBeNull();
    expect(readView(null, usual)).toEqual(usual);
  });
  it("leaves out what it does not know and what is of another kind", () => {
    expect(readView("time_fraction:soon,palette:3,truth:perhaps,price:5,seed:,:", usual)).toEqual(usual);
  });
});
