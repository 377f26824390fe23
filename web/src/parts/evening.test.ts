import { describe, expect, it } from "vitest";
import { localTime, nightSite, shiftDate, tonightDate } from "./evening";

describe("evenings", () => {
  it("belong to yesterday until noon", () => {
    expect(tonightDate(undefined, new Date(2027, 0, 10, 23, 50))).toBe("2027-01-10");
    expect(tonightDate(undefined, new Date(2027, 0, 11, 4, 0))).toBe("2027-01-10");
    expect(tonightDate(undefined, new Date(2027, 0, 11, 12, 1))).toBe("2027-01-11");
  });
  it("are the site's, wherever the browser stands", () => {
    const at = (zone: string | null, longitude_deg: number, utc: string) =>
      tonightDate({ zone, longitude_deg }, new Date(utc));
    // Noon in Quebec is 17:00 UTC in winter, in Auckland 23:00 UTC of the day before.
    expect(at("America/Toronto", -72.5, "2027-01-11T16:59:00Z")).toBe("2027-01-10");
    expect(at("America/Toronto", -72.5, "2027-01-11T17:01:00Z")).toBe("2027-01-11");
    expect(at("Pacific/Auckland", 174, "2027-01-10T22:59:00Z")).toBe("2027-01-10");
    expect(at("Pacific/Auckland", 174, "2027-01-10T23:01:00Z")).toBe("2027-01-11");
    expect(at(null, -72.5, "2027-01-11T16:59:00Z")).toBe("2027-01-10");
    expect(at("Nowhere/Town", 150, "2027-01-11T02:01:00Z")).toBe("2027-01-11");
  });
  it("follow each other over months, years and leap days", () => {
    expect(shiftDate("2027-01-31", 1)).toBe("2027-02-01");
    expect(shiftDate("2028-02-28", 1)).toBe("2028-02-29");
    expect(shiftDate("2028-03-01", -1)).toBe("2028-02-29");
    expect(shiftDate("2026-12-31", 1)).toBe("2027-01-01");
  });
  it("do not slip where clocks change", () => {
    let date = "2026-10-20";
    for (let i = 0; i < 30; i++) date = shiftDate(date, 1);
    expect(date).toBe("2026-11-19");
  });
});

describe("local time", () => {
  // Four hours behind UTC, five from 06:00 UTC of the first of November 2026 on.
  const clock = [
    { from_s: 0, offset_s: -4 * 3600 },
    { from_s: Date.UTC(2026, 10, 1, 6) / 1000, offset_s: -5 * 3600 },
  ];
  const at = (h: number, m = 0) => localTime(Date.UTC(2026, 10, 1, h, m) / 1000, clock);
  it("changes with the night's own clock", () => {
    expect(at(3, 40)).toBe("23:40");
    expect(at(5, 59)).toBe("01:59");
    expect(at(6)).toBe("01:00");
    expect(at(12)).toBe("07:00");
  });
  it("rounds to the minute and over midnight", () => {
    expect(localTime(Date.UTC(2026, 10, 1, 3, 59, 45) / 1000, clock)).toBe("00:00");
  });
  it("is a dash for what does not happen", () => {
    expect(localTime(null, clock)).toBe("–");
    expect(localTime(undefined, [])).toBe("–");
  });
  it("is UTC without a clock", () => {
    expect(localTime(Date.UTC(2026, 10, 1, 3, 40) / 1000, [])).toBe("03:40");
  });
});

describe("a site for the night", () => {
  it("carries its name and says null where no zone is known", () => {
    const entry = { entry: { name: "Larch Lane" }, site: { latitude_deg: 46.35, longitude_deg: -72.55, height_m: 30 } };
    expect(nightSite(entry as never)).toEqual({
      name: "Larch Lane",
      latitude_deg: 46.35,
      longitude_deg: -72.55,
      height_m: 30,
      zone: null,
    });
  });
});
