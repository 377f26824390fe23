import { describe, expect, it } from "vitest";
import type { Scenario } from "@/api/client";
import { choose, uncertain } from "./choices";
import { clock, mag, rate, seconds, snr } from "./format";

const scenario = (choices?: object) => ({ title: "t", choices }) as unknown as Scenario;

describe("choices", () => {
  it("keep what is not set", () => {
    const s = scenario({ school: "swamp", excess: 0.05 });
    choose(s, { excess: 0.1 });
    expect(s.choices).toEqual({ school: "swamp", excess: 0.1 });
  });
  it("begin where a document has none", () => {
    const s = scenario();
    choose(s, { school: "best" });
    uncertain(s, { sky_mag: 0.3 });
    uncertain(s, { target_relative: 0.1 });
    expect(s.choices).toEqual({ school: "best", uncertainty: { sky_mag: 0.3, target_relative: 0.1 } });
  });
});

describe("numbers on screen", () => {
  it("say times as people do", () => {
    expect([45, 90, 3600, 5400, 36_000].map(clock)).toEqual(["45 s", "2 min", "1 h", "1 h 30 min", "10 h"]);
    expect(clock(null)).toBe("out of reach");
    expect(clock(Number.POSITIVE_INFINITY)).toBe("out of reach");
    expect(clock(1_234_567)).toBe("340 h");
    expect(clock(1e9)).toBe("> 10 000 h");
  });
  it("say subs with two figures until they are long", () => {
    expect([0.01, 0.25, 3.12, 42.4, 183.4].map(seconds)).toEqual(["under 0.1 s", "0.25 s", "3.1 s", "42 s", "183 s"]);
  });
  it("keep magnitudes to two decimals and signal to noise to one", () => {
    expect([mag(19.304), mag(null), snr(9.96), snr(123.4)]).toEqual(["19.30", "none", "10.0", "123"]);
  });
  it("keep small rates readable", () => {
    expect([rate(0), rate(12.34), rate(0.5), rate(0.0123), rate(0.00001)]).toEqual([
      "0",
      "12.3",
      "0.50",
      "0.0123",
      "1.0e-5",
    ]);
  });
});
