import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import { Axes } from "./Axes";

const twice = (v: number) => v * 2;
const draw = (x = {}, y = {}) =>
  renderToStaticMarkup(
    <svg>
      <title>axes</title>
      <Axes
        box={[40, 10, 240, 110]}
        x={{ scale: twice, ticks: [30, 60], ...x }}
        y={{ scale: twice, ticks: [20, 40], ...y }}
      />
    </svg>,
  );

describe("axes", () => {
  it("write every tick where its value lies", () => {
    const markup = draw();
    expect(markup).toMatch(/<text x="60" y="126"[^>]*>30</);
    expect(markup).toMatch(/<text x="120" y="126"[^>]*>60</);
    expect(markup).toMatch(/<text x="32" y="44"[^>]*>20</);
  });
  it("have upright lines unless told otherwise, and level ones only if asked", () => {
    expect([...draw().matchAll(/<line/g)]).toHaveLength(2);
    expect([...draw({ grid: false }).matchAll(/<line/g)]).toHaveLength(0);
    expect([...draw({}, { grid: true }).matchAll(/<line/g)]).toHaveLength(4);
  });
  it("write ticks in their own words and name themselves", () => {
    const markup = draw({ text: (t: number) => `${t} min`, label: "clock" }, { label: "SNR" });
    expect(markup).toContain(">30 min<");
    expect(markup).toMatch(/text-anchor="end"[^>]*>clock</);
    expect(markup).toMatch(/rotate\(-90 12 60\)[^>]*>SNR</);
  });
});
