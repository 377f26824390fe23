import { describe, expect, it } from "vitest";
import { apart, levels, spread } from "./spread";

describe("spread labels", () => {
  // A small generator of its own, so that a failure can be repeated.
  let seed = 7;
  const random = () => {
    seed = (seed * 1103515245 + 12345) % 2147483648;
    return seed / 2147483648;
  };
  it("never overlap, keep their order, and stay inside where there is room", () => {
    for (let round = 0; round < 300; round++) {
      const n = 1 + Math.floor(random() * 9);
      const wanted = Array.from({ length: n }, () => random() * 200);
      const out = spread(wanted, 15, [0, 200]);
      const order = wanted.map((y, i) => ({ y, at: out[i] ?? 0 })).sort((a, b) => a.y - b.y);
      order.forEach((o, i) => {
        expect(o.at).toBeGreaterThanOrEqual(-1e-9);
        expect(o.at).toBeLessThanOrEqual(200 + 1e-9);
        const before = order[i - 1];
        if (before) expect(o.at - before.at).toBeGreaterThanOrEqual(15 - 1e-9);
      });
    }
  });
  it("leaves alone what is far enough apart", () => {
    expect(spread([10, 60, 120], 15, [0, 200])).toEqual([10, 60, 120]);
  });
  it("has nothing to do for nothing", () => {
    expect(spread([], 15, [0, 200])).toEqual([]);
  });
});

describe("labels on levels", () => {
  it("stay on the lowest where none overlaps", () => {
    expect(
      levels([
        [0, 10],
        [10, 20],
        [25, 30],
      ]),
    ).toEqual([0, 0, 0]);
    expect(levels([])).toEqual([]);
  });
  it("rise where they overlap, and come down again", () => {
    expect(
      levels([
        [0, 10],
        [5, 15],
        [8, 12],
        [12, 20],
      ]),
    ).toEqual([0, 1, 2, 0]);
  });
  it("keep the order that they were given in", () => {
    expect(
      levels([
        [5, 15],
        [0, 10],
      ]),
    ).toEqual([1, 0]);
  });
});

it("ticks that would touch the one before are left out", () => {
  expect(apart([1, 2, 3, 5, 9], (v) => v * 10, 20)).toEqual([1, 3, 5, 9]);
  expect(apart([], (v) => v, 20)).toEqual([]);
});
