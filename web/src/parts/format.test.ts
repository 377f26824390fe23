import { describe, expect, it } from "vitest";
import { spread } from "@/charts/spread";
import { clock, ends, percent, seconds, snr, typedClock } from "./format";
import { same } from "./same";

describe("numbers as they are shown", () => {
  it("says times in h and min", () => {
    expect(clock(15_000)).toBe("4 h 10 min");
    expect(clock(7200)).toBe("2 h");
    expect(clock(null)).toBe("out of reach");
    expect(clock(1_234_567)).toBe("340 h");
  });
  it("shows small shares", () => {
    expect(percent(0.332)).toBe("33 %");
    expect(percent(0.0815)).toBe("8.2 %");
    expect(percent(0.00001)).toBe("< 0.1 %");
  });
});

describe("labels at the end of curves", () => {
  it("keeps them apart, in order and within the chart", () => {
    const out = spread([100, 101, 40], 15, [10, 110]);
    expect(out[2]).toBe(40);
    expect((out[1] ?? 0) - (out[0] ?? 0)).toBeGreaterThanOrEqual(15);
    expect(Math.max(...out)).toBeLessThanOrEqual(110);
  });
});

describe("documents that say the same", () => {
  it("does not mind order, nulls and missing keys", () => {
    expect(same({ a: 1, b: null }, { a: 1 })).toBe(true);
    expect(same({ a: [1, { x: 2, y: 3 }] }, { a: [1, { y: 3, x: 2 }] })).toBe(true);
  });
  it("minds values and lengths", () => {
    expect(same({ a: 1 }, { a: 2 })).toBe(false);
    expect(same([1, 2], [1])).toBe(false);
    expect(same({ a: 0 }, {})).toBe(false);
  });
});

describe("ranges", () => {
  it("write the unit once", () => {
    expect(ends({ low: 240, high: 412 }, seconds)).toBe("240–412 s");
    expect(ends({ low: 0.251, high: 0.333 }, percent)).toBe("25–33 %");
    expect(ends({ low: 18.04, high: 26.1 }, snr)).toBe("18.0–26.1");
    expect(ends({ low: 0.02, high: 3 }, seconds)).toBe("under 0.1–3 s");
  });
  it("say nothing where both ends read the same", () => {
    expect(ends({ low: 240.1, high: 240.3 }, seconds)).toBe("");
    expect(ends(null, seconds)).toBe("");
  });
});

describe("times as they were typed", () => {
  it("keep what clocks round away", () => {
    expect(typedClock(25.7 * 60)).toBe("25.7 min");
    expect(typedClock(5400)).toBe("1 h 30 min");
    expect(typedClock(3600 + 90)).toBe("1 h 1.5 min");
    expect(typedClock(14_400)).toBe("4 h");
  });
});
