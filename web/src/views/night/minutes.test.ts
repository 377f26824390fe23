import { describe, expect, it } from "vitest";
import type { NightAnswer } from "@/api/client";
import { minuteWords, nightSpan, nightTable, sampleAt } from "./minutes";

const NOON = Date.UTC(2027, 0, 28, 17) / 1000;
/** A night of noon to noon in Quebec, minute by minute: usable from the 400th to the 900th minute, the moon up from the 700th. */
function night(): NightAnswer {
  const samples = Array.from({ length: 1441 }, (_, i) => {
    const usable = i >= 400 && i <= 900;
    return {
      at_s: NOON + i * 60,
      sun_deg: 40 - i / 10,
      moon_deg: i >= 700 ? 12.4 : -5,
      moon_distance_deg: 61.6,
      target_deg: i < 300 ? 10 : 55,
      target_azimuth_deg: 180,
      limit_deg: 20,
      usable,
      information_per_h: usable ? [i === 600 ? 40 : 20, 0] : [0, 0],
      background_e_per_s: usable ? [0.1234, 0.05] : [0, 0],
    };
  });
  return {
    clock: [{ from_s: 0, offset_s: -5 * 3600 }],
    others: [],
    first: {
      target: "IC 443",
      filters: ["H-alpha 3 nm", "[O III] 3 nm"],
      view: { samples, events: { sunset_s: NOON + 300 * 60, sunrise_s: NOON + 1100 * 60 } },
    },
  } as unknown as NightAnswer;
}

describe("the night's span", () => {
  it("reaches half an hour beyond sunset and sunrise", () => {
    expect(nightSpan(night())).toEqual([NOON + 270 * 60, NOON + 1130 * 60]);
  });
  it("is all there is where the sun neither sets nor rises", () => {
    const n = night();
    n.first.view.events.sunset_s = null;
    n.first.view.events.sunrise_s = null;
    expect(nightSpan(n)).toEqual([NOON - 1800, NOON + 1440 * 60 + 1800]);
  });
});

describe("the minute that is pointed at", () => {
  it("is the nearest, and the first or last beyond the ends", () => {
    const n = night();
    expect(sampleAt(n, NOON + 601 * 60 + 29)?.at_s).toBe(NOON + 601 * 60);
    expect(sampleAt(n, NOON + 601 * 60 + 31)?.at_s).toBe(NOON + 602 * 60);
    expect(sampleAt(n, NOON - 9999)?.at_s).toBe(NOON);
    expect(sampleAt(n, NOON + 1e6)?.at_s).toBe(NOON + 1440 * 60);
  });
  it("is none in a night without minutes", () => {
    const n = night();
    n.first.view.samples = [];
    expect(sampleAt(n, NOON)).toBeUndefined();
  });
  it("is told in words with what each filter gathers of its best", () => {
    const n = night();
    const at = (i: number) => minuteWords(n, sampleAt(n, NOON + i * 60) as never);
    expect(at(650)).toBe(
      "22:50: IC 443 55° high, sun -25°, moon down. H-alpha 3 nm 50 % of its best, sky 0.12 e-/s; [O III] 3 nm 0 % of its best, sky 0.0500 e-/s.",
    );
    expect(at(800)).toContain("moon 12° high, 62° away.");
  });
  it("says why nothing is gathered", () => {
    const n = night();
    expect(minuteWords(n, sampleAt(n, NOON) as never)).toMatch(/Below its limit\.$/);
    expect(minuteWords(n, sampleAt(n, NOON + 350 * 60) as never)).toMatch(/Not dark\.$/);
  });
});

describe("the night as a table", () => {
  const table = nightTable(night());
  it("has a row a quarter of an hour between the ends", () => {
    expect(table.rows[0]?.slice(0, 2)).toEqual(["2027-01-28T21:30:00Z", "16:30"]);
    expect(table.rows[1]?.[1]).toBe("16:45");
    expect(table.rows).toHaveLength(58);
  });
  it("has two columns a filter", () => {
    expect(table.columns.slice(-2)).toEqual(["[O III] 3 nm: SNR² per h", "[O III] 3 nm: sky (e-/s/px)"]);
    expect(table.rows.every((r) => r.length === table.columns.length)).toBe(true);
  });
});
