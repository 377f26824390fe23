import { describe, expect, it } from "vitest";
import type { Goal } from "@/api/client";
import { purposeOf, snrOf, usualPurpose } from "./purpose";

const goal = (snr: number): Goal => ({ quantity: "ha", part: "body", snr, detail_arcsec: 10 });

describe("what a picture is for", () => {
  it("is read off its goals where they agree", () => {
    expect(purposeOf([goal(10), goal(10)])).toBe("picture");
    expect(purposeOf([goal(3)])).toBe("first_look");
    expect(purposeOf([goal(10), goal(20)])).toBe("");
    expect(purposeOf([goal(12)])).toBe("");
  });
  it("asks for a signal to noise", () => {
    expect([snrOf("first_look"), snrOf("picture"), snrOf("print")]).toEqual([3, 10, 20]);
  });
  it("is nothing where no browser keeps it", () => {
    expect(usualPurpose()).toBeUndefined();
  });
});
