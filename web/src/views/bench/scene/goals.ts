import type { BenchAnswer, Goal, GoalLevel, Scenario } from "@/api/client";
import { same } from "@/parts/same";

/** The level that a goal's signal to noise is; none for one of the user's own. */
export const levelOf = (levels: readonly GoalLevel[], g: Goal): GoalLevel | undefined =>
  levels.find((l) => l.snr === g.snr);

/** The level that all goals share; none where they are of several, or of the user's own making. */
export const levelOfAll = (levels: readonly GoalLevel[], goals: readonly Goal[]): GoalLevel | undefined =>
  levels.find((l) => goals.every((g) => g.snr === l.snr));

/** Changes the goal for a quantity; where the scenario names none for it, that becomes one. */
export function setGoal(s: Scenario, goal: Goal, how: (g: Goal) => void) {
  s.goals ??= [];
  let own = s.goals.find((g) => g.quantity === goal.quantity);
  if (!own) {
    s.goals.push({ ...goal });
    own = s.goals[s.goals.length - 1] as Goal;
  }
  how(own);
}

/** The goals that follow a target which was changed: as long as they were what is usual for it, they stay so. */
export function followed(
  scenario: Scenario,
  before: BenchAnswer["usual_goals"] | undefined,
  now: BenchAnswer["usual_goals"],
): Goal[] | null {
  const own = scenario.goals ?? [];
  return before && own.length > 0 && same(own, before) && !same(before, now) ? now : null;
}
