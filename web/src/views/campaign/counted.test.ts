import { describe, expect, it } from "vitest";
import { counted } from "./counted";

const planned = {
  date: "2027-01-28",
  note: "",
  planned: true,
  shots: [{ exposure: 0, subs: 40, snr2: 80, lines_snr2: { ha: 80, oiii: 20 } }],
};
const perSub = [[{ quantity: "ha" as const, snr2: 2 }], [{ quantity: "sii" as const, snr2: 0.5 }]];

describe("what was really taken", () => {
  it("counts in proportion to the plan, every line of it", () => {
    expect(counted.night(planned, [30, 0], perSub).shots).toEqual([
      { exposure: 0, subs: 30, snr2: 60, lines_snr2: { ha: 60, oiii: 15 } },
    ]);
    expect(counted.subs(planned, 0)).toBe(40);
    expect(counted.subs(planned, 1)).toBe(0);
  });
  it("counts by the scenario's sky where nothing was planned", () => {
    expect(counted.night(planned, [0, 10], perSub).shots).toEqual([
      { exposure: 1, subs: 10, snr2: 5, lines_snr2: { sii: 5 } },
    ]);
    expect(counted.night(planned, [0, 10], undefined).shots[0]?.snr2).toBe(0);
  });
});
