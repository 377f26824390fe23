import { describe, expect, it } from "vitest";
import { outside, readAmount } from "./amount";

const read = (text: string, unit?: string) => readAmount(text, unit).value;
const why = (text: string, unit?: string) => readAmount(text, unit).why;

describe("amounts as people type them", () => {
  it("are plain numbers, with point or comma", () => {
    expect(read("101,6")).toBe(101.6);
    expect(read(" 1 200 ", "mm")).toBe(1200);
    expect(read("\u22125", "°C")).toBe(-5);
    expect(read("1e-3")).toBe(0.001);
    expect(read(".5")).toBe(0.5);
  });
  it("are times in any usual form, in the unit of the field", () => {
    expect(read("25.7 min", "h")).toBeCloseTo(25.7 / 60, 12);
    expect(read("25,7 min", "s")).toBeCloseTo(1542, 9);
    expect(read("1:30", "h")).toBe(1.5);
    expect(read("1:30", "min")).toBe(90);
    expect(read("1:30", "s")).toBe(90);
    expect(read("1:30:30", "s")).toBe(5430);
    expect(read("2 h", "min")).toBe(120);
    expect(read("2h", "h")).toBe(2);
    expect(read("1 h 30 min", "h")).toBe(1.5);
    expect(read("1h30", "h")).toBe(1.5);
    expect(read("90 seconds", "min")).toBe(1.5);
  });
  it("are so many subs of so long", () => {
    expect(read("10 x 150 s", "h")).toBeCloseTo(1500 / 3600, 12);
    expect(read("10x150", "min")).toBe(25);
    expect(read("20 × 2.5 min", "h")).toBeCloseTo(50 / 60, 12);
  });
  it("are lengths and angles in other units of their kind", () => {
    expect(read("20 cm", "mm")).toBe(200);
    expect(read("0.5303 m", "mm")).toBeCloseTo(530.3, 9);
    expect(read("5007 Å", "nm")).toBeCloseTo(500.7, 9);
    expect(read("3.76 um", "µm")).toBe(3.76);
    expect(read("2 arcmin", "″")).toBe(120);
    expect(read("12 %", "%")).toBe(12);
    expect(read("12 MAG", "mag")).toBe(12);
  });
  it("say why they are not understood", () => {
    expect(why("", "h")).toMatch(/empty; give a number, such as .*1:30/);
    expect(why("five", "s")).toMatch(/"five" is not a number; give one such as 150/);
    expect(why("5 kg", "mm")).toMatch(/"kg" is no unit for this; give it in mm/);
    expect(why("5 mm", "s")).toMatch(/"mm" is no unit/);
    expect(why("1:75", "h")).toBeDefined();
    expect(why("30 min 1 h", "h")).toBeDefined();
    expect(why("1.2.3")).toBeDefined();
    expect(why("NaN")).toBeDefined();
    expect(why("Infinity", "s")).toBeDefined();
    expect(why("10 x", "h")).toBeDefined();
    expect(why("10 x five", "h")).toMatch(/five/);
  });
  it("are told the range they lie outside of", () => {
    expect(outside(5, 0, 10, "s")).toBeUndefined();
    expect(outside(-1, 0, 10, "s")).toBe("give 0 to 10 s");
    expect(outside(-1, 0, Number.POSITIVE_INFINITY)).toBe("give at least 0");
    expect(outside(Number.NaN, 0, 10)).toBe("give 0 to 10");
  });
});
