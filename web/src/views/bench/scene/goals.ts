import type { BenchAnswer, Goal, Scenario } from "@/api/client";
import { same } from "@/parts/same";

/** How clean a part may be asked to be, by the signal to noise on its square. */
export const CLEANNESS = [
  { id: "seen", label: "seen", snr: 3 },
  { id: "clean", label: "clean", snr: 10 },
  { id: "smooth", label: "smooth", snr: 20 },
] as const;

/** The word for a goal's signal to noise; "" for one of the user's own. */
export const cleannessOf = (g: Goal): string => CLEANNESS.find((c) => c.snr === (g.snr ?? 10))?.id ?? "";

/** Changes the goal for a quantity; where the scenario names none for it, that becomes one. */
export function setGoal(s: Scenario, goal: Goal, how: (g: Goal) => void) {
  s.goals ??= [];
  let own = s.goals.find((g) => g.quantity === goal.quantity);
  if (!own) {
    own = { ...goal };
    s.goals.push(own);
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
