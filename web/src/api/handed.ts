import type { BenchAnswer, StoredScenario } from "./client";

/** What a page has of a comparison that it just began, for the bench that opens next. Each is taken once: whoever comes later asks anew. */
let stored: StoredScenario | undefined;
let answer: { id: string; answer: BenchAnswer } | undefined;

export function handOver(begun: StoredScenario, first: BenchAnswer | undefined) {
  stored = begun;
  answer = first && { id: begun.id, answer: first };
}

/** The comparison itself. */
export function takeStored(id: string): StoredScenario | undefined {
  const own = stored?.id === id ? stored : undefined;
  stored = undefined;
  return own;
}

/** Its answer on the bench, as it was begun. */
export function takeAnswer(id: string): BenchAnswer | undefined {
  const own = answer?.id === id ? answer.answer : undefined;
  answer = undefined;
  return own;
}
