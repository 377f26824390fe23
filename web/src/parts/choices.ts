import type { Choices, Scenario } from "@/api/client";

/** Sets some of a scenario's choices; what is not set keeps its value, or the server's default. */
export function choose(s: Scenario, some: Partial<Choices>) {
  s.choices = { ...s.choices, ...some } as Choices;
}

/** Sets how well some of the inputs are known. */
export function uncertain(s: Scenario, some: Partial<NonNullable<Choices["uncertainty"]>>) {
  choose(s, { uncertainty: { ...s.choices?.uncertainty, ...some } as NonNullable<Choices["uncertainty"]> });
}
