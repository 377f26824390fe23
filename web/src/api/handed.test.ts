import { expect, it } from "vitest";
import type { BenchAnswer, StoredScenario } from "./client";
import { handOver, takeAnswer, takeStored } from "./handed";

it("what is handed over is taken once, and by the one that it is for", () => {
  const [stored, answer] = [{ id: "a" } as StoredScenario, {} as BenchAnswer];
  handOver(stored, answer);
  expect(takeStored("a")).toBe(stored);
  expect(takeStored("a")).toBeUndefined();
  expect(takeAnswer("a")).toBe(answer);
  expect(takeAnswer("a")).toBeUndefined();
  handOver(stored, answer);
  expect(takeStored("b")).toBeUndefined();
  expect(takeAnswer("b")).toBeUndefined();
  // Whoever opens something else does not leave it lying for later.
  expect(takeStored("a")).toBeUndefined();
});
