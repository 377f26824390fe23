import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import { Crystal } from "./Crystal";

const draw = (progress: number) => renderToStaticMarkup(<Crystal progress={progress} colour="red" label="[O III]" />);
const level = (progress: number) => Number(/<rect [^>]* y="([\d.]+)"/.exec(draw(progress))?.[1]);

describe("a goal's crystal", () => {
  it("fills evenly from its foot to its tip", () => {
    expect(level(0)).toBe(118);
    expect(level(0.5)).toBe(61);
    expect(level(1)).toBe(4);
  });
  it("neither overflows nor drains", () => {
    expect(level(1.7)).toBe(4);
    expect(level(-0.2)).toBe(118);
  });
  it("says how much of the goal is reached, also beyond it", () => {
    expect(draw(0.834)).toContain('aria-label="[O III]: 83 % of its goal"');
    expect(draw(1.25)).toContain("125 % of its goal");
  });
  it("has an id that a reference can name", () => {
    const id = /<clipPath id="([^"]+)"/.exec(draw(0.5))?.[1] ?? "";
    expect(id).toMatch(/^[a-z0-9-]+$/i);
    expect(draw(0.5)).toContain(`url(#${id})`);
  });
});
