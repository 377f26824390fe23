import { api, must, type Scenario } from "./client";
import { useLive } from "./useLive";

/** Everything that is decided about a scenario, asked again as it changes; nothing is asked for null. */
export const useDecisions = (scenario: Scenario | null) =>
  useLive(scenario, async (body, signal) => (body ? must(api.POST("/api/v1/decisions", { body, signal })) : undefined));
