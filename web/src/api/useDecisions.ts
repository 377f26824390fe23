import { answerOf, api, type Scenario } from "@/api/client";
import { useLive } from "./useLive";

/** Everything that is decided about a scenario, asked again as it changes; nothing is asked for null. */
export const useDecisions = (scenario: Scenario | null) =>
  useLive(scenario, async (body, signal) =>
    body ? answerOf(api.POST("/api/v1/decisions", { body, signal })) : undefined,
  );

/** The sub of every exposure, path by path: what the bench has worked out already. */
export const useSubs = (scenario: Scenario | null) =>
  useLive(scenario, async (body, signal) =>
    body ? answerOf(api.POST("/api/v1/decisions/subs", { body, signal })) : undefined,
  );

/** The gain of every path: what the bench has worked out already. */
export const useGains = (scenario: Scenario | null) =>
  useLive(scenario, async (body, signal) =>
    body ? answerOf(api.POST("/api/v1/decisions/gains", { body, signal })) : undefined,
  );
