import { describe, expect, it } from "vitest";
import { around, moved, pairsText, readPairs, withPoint } from "./horizon";

describe("a horizon as text", () => {
  it("is read as people type it", () => {
    const pairs = [
      [0, 10],
      [90, 35.5],
      [200, 5],
    ];
    for (const text of [
      "0 10; 90 35.5; 200 5",
      "0 10\n90 35,5\n200 5\n",
      "0,10;90,35.5;200,5",
      " 0, 10 ; 90, 35.5;200, 5; ",
    ])
      expect(readPairs(text), text).toEqual(pairs);
    expect(readPairs("")).toEqual([]);
  });
  it("is refused where a pair is not two numbers", () => {
    for (const text of ["90", "90 35 3", "north 10", "90 35; x", "0 10 90 35"])
      expect(readPairs(text), text).toBeNull();
  });
  it("reads back what it writes", () => {
    expect(
      readPairs(
        pairsText([
          [10, 5],
          [300, 25.5],
        ]),
      ),
    ).toEqual([
      [10, 5],
      [300, 25.5],
    ]);
  });
});

describe("a horizon as a picture", () => {
  it("goes around the circle from north to north", () => {
    // From 200 degrees over north to 90 it is 250 degrees: north is 160 of them on.
    const north = 5 + (160 / 250) * 30;
    expect(
      around([
        [90, 35],
        [200, 5],
      ]),
    ).toEqual([
      [0, north],
      [90, 35],
      [200, 5],
      [360, north],
    ]);
    expect(around([[90, 35]])).toEqual([
      [0, 35],
      [90, 35],
      [360, 35],
    ]);
    expect(
      around([
        [0, 10],
        [360, 20],
      ]),
    ).toEqual([
      [0, 10],
      [360, 20],
    ]);
    expect(around([])).toEqual([]);
  });
  it("keeps a moved point between its neighbours and above the ground", () => {
    const list: [number, number][] = [
      [90, 35],
      [200, 5],
      [300, 20],
    ];
    expect(moved(list, 1, 350, -8)).toEqual([
      [90, 35],
      [299, 0],
      [300, 20],
    ]);
    expect(moved(list, 0, -20, 95)).toEqual([
      [0, 89],
      [200, 5],
      [300, 20],
    ]);
    expect(moved(list, 2, 359.6, 12.4)).toEqual([
      [90, 35],
      [200, 5],
      [360, 12],
    ]);
    expect(list).toEqual([
      [90, 35],
      [200, 5],
      [300, 20],
    ]);
  });
  it("takes a point more in its place, once", () => {
    const list: [number, number][] = [
      [90, 35],
      [200, 5],
    ];
    expect(withPoint(list, 149.7, 22.2)).toEqual([
      [90, 35],
      [150, 22],
      [200, 5],
    ]);
    expect(withPoint(list, 200.3, 22)).toBe(list);
    expect(withPoint([], 400, -3)).toEqual([[360, 0]]);
  });
});
