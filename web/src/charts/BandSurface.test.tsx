import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import type { BandwidthAnswer } from "@/api/client";
import { BandSurface } from "./BandSurface";

const ratios = [1.8, 2, 2.8, 4, 5.6, 8, 10];
const widths = [3, 5, 7, 12];
const offsets = [0, 2, 4, 6, 8];
const answer = (yours: Partial<NonNullable<BandwidthAnswer["yours"]>> | null): BandwidthAnswer =>
  ({
    text: "At f/2.8 the best band is 5 nm wide.",
    focal_ratio: 2.8,
    focal_ratios: ratios,
    widths_nm: widths,
    relative_snr: ratios.map(() => widths.map((w) => 1 / w)),
    best_width_nm: ratios.map(() => 5),
    good_width_nm: ratios.map(() => [3, 7]),
    best_width_range_nm: ratios.map(() => [4, 6]),
    offsets_nm: offsets,
    offset_snr: offsets.map(() => widths.map((w) => 1 / w)),
    best_nm: 5,
    best_range_nm: [3, 7],
    best_offset_nm: 2,
    best_offset_range_nm: [2, 4],
    yours: yours && { fwhm_nm: 7, offset_nm: 1, ...yours },
  }) as unknown as BandwidthAnswer;
const draw = (a: BandwidthAnswer, against: "ratio" | "centre", width = 500) =>
  renderToStaticMarkup(<BandSurface answer={a} against={against} width={width} height={206} label="H-alpha" />);
const count = (markup: string, what: RegExp) => [...markup.matchAll(what)].length;
/** The number of an attribute of the first element that a pattern finds. */
const number = (markup: string, element: RegExp, name: string) =>
  Number(new RegExp(` ${name}="([-\\d.]+)"`).exec(element.exec(markup)?.[0] ?? "")?.[1]);

describe("the surface of bands", () => {
  it("has a cell for every width at every focal ratio, or at every centre", () => {
    expect(count(draw(answer({}), "ratio"), /<rect/g)).toBe(ratios.length * widths.length);
    expect(count(draw(answer({}), "centre"), /<rect/g)).toBe(offsets.length * widths.length);
  });
  it("is told to a screen reader with its sentence", () => {
    expect(draw(answer({}), "ratio")).toContain("focal ratio and bandwidth. At f/2.8 the best band is 5 nm wide.");
    expect(draw(answer({}), "centre")).toContain("centre of the band and bandwidth.");
  });
  it("shows the range of the best width as a band", () => {
    expect(draw(answer({}), "ratio")).toContain('data-testid="best-width-range"');
  });
  it("draws the best as a cross from end to end of its ranges", () => {
    const markup = draw(answer({}), "centre");
    const [flat, upright] = [...markup.matchAll(/<line [^>]*>/g)].map((m) => m[0]);
    expect(flat).toMatch(/x1="([\d.]+)" x2="(?!\1")/);
    expect(flat).toMatch(/y1="([\d.]+)" y2="\1"/);
    expect(upright).toMatch(/x1="([\d.]+)" x2="\1"/);
    expect(upright).toMatch(/y1="([\d.]+)" y2="(?!\1")/);
  });
});

describe("the filter in use on it", () => {
  it("stands at the rig's focal ratio, or at its own centre", () => {
    const [a, b] = [draw(answer({}), "ratio"), draw(answer({}), "centre")];
    const ring = /<circle [^>]*r="5.5"[^>]*>/;
    const own = number(a, /<line [^>]*stroke="var\(--amber\)"[^>]*>/, "x1");
    expect(number(a, ring, "cx")).toBeCloseTo(own, 6);
    const [left, right] = [50 + 14, 500 - 28];
    expect(number(b, ring, "cx")).toBeCloseTo(left + ((right - left) * 1) / 8, 6);
  });
  it("is left out where it has no one width or lies off the chart", () => {
    for (const yours of [null, { fwhm_nm: null }, { fwhm_nm: 60 }])
      expect(draw(answer(yours), "ratio")).not.toContain("yours");
    expect(draw(answer({ offset_nm: -1 }), "centre")).not.toContain("yours");
  });
  it("has its word on the side where there is room", () => {
    const at = (offset_nm: number) => />yours</.exec(draw(answer({ offset_nm }), "centre"))?.index ?? 0;
    const word = (offset_nm: number) =>
      draw(answer({ offset_nm }), "centre").slice(0, at(offset_nm)).split("<text").at(-1);
    expect(word(1)).not.toContain('text-anchor="end"');
    expect(word(8)).toContain('text-anchor="end"');
  });
});
