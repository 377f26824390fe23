import { answerOf, api, ProblemError, type Scenario } from "./client";

/** How a question about a look names its scenario: by the id under which it was posted. */
export type OfLook = { look: string };

/** A scenario is posted once, whatever is asked of its look afterwards. */
const posted = new WeakMap<Scenario, Promise<OfLook>>();

function post(scenario: Scenario): Promise<OfLook> {
  const known = posted.get(scenario);
  if (known) return known;
  const now = answerOf(api.POST("/api/v1/look/scenario", { body: scenario })).catch((e) => {
    posted.delete(scenario);
    throw e;
  });
  posted.set(scenario, now);
  return now;
}

/** Asks about the look of a scenario by its id; where the server has forgotten it (it was started anew), it is posted again. */
export async function askLook<A>(scenario: Scenario, ask: (of: OfLook) => Promise<A>): Promise<A> {
  try {
    return await ask(await post(scenario));
  } catch (e) {
    if (!(e instanceof ProblemError) || e.problem.status !== 404) throw e;
    posted.delete(scenario);
    return ask(await post(scenario));
  }
}
