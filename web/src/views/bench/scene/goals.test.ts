import { describe, expect, it } from "vitest";
import type { Goal, GoalLevel, Scenario } from "@/api/client";
import { followed, levelOf, levelOfAll, setGoal } from "./goals";

const goal = (quantity: Goal["quantity"], detail_arcsec: number): Goal => ({
  quantity,
  part: "body",
  snr: 10,
  detail_arcsec,
});
const scenario = (goals: Goal[]) => ({ goals }) as Scenario;

describe("goals", () => {
  it("are told by the level of their signal to noise", () => {
    const level = (word: string, snr: number) => ({ word, snr }) as GoalLevel;
    const levels = [level("seen", 3), level("clean", 10)];
    expect(levelOf(levels, goal("ha", 5))?.word).toBe("clean");
    expect(levelOf(levels, { ...goal("ha", 5), snr: 12 })).toBeUndefined();
    const [seen, clean] = [{ ...goal("oiii", 5), snr: 3 }, goal("ha", 5)];
    expect(levelOfAll(levels, [clean, clean])?.word).toBe("clean");
    expect(levelOfAll(levels, [seen, clean])).toBeUndefined();
  });

  it("are changed in place, and made where there is none", () => {
    const s = scenario([goal("ha", 5)]);
    setGoal(s, goal("ha", 5), (g) => void (g.detail_arcsec = 8));
    setGoal(s, goal("oiii", 15), (g) => void (g.part = "outskirts"));
    expect(s.goals?.map((g) => [g.quantity, g.part, g.detail_arcsec])).toEqual([
      ["ha", "body", 8],
      ["oiii", "outskirts", 15],
    ]);
  });

  it("follow a target that was changed only while they are the usual ones", () => {
    const [usual, now] = [[goal("ha", 5)], [goal("ha", 15)]];
    expect(followed(scenario(usual), usual, now)).toEqual(now);
    expect(followed(scenario([goal("ha", 7)]), usual, now)).toBeNull();
    expect(followed(scenario(usual), usual, usual)).toBeNull();
    expect(followed(scenario([]), [], now)).toBeNull();
    expect(followed(scenario(usual), undefined, now)).toBeNull();
  });
});
