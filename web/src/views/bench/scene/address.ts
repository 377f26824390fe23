import type { Scenario } from "@/api/client";

/** The scene in the address, so that a link shows the same sky: only what differs from the stored scenario. */
const NUMBERS = {
  sky: [
    (s: Scenario) => s.sky.zenith_v_mag,
    (s: Scenario, v: number) => {
      s.sky.zenith_v_mag = v;
    },
  ],
  alt: [
    (s: Scenario) => s.sky.target_altitude_deg,
    (s: Scenario, v: number) => {
      s.sky.target_altitude_deg = v;
    },
  ],
  hours: [
    (s: Scenario) => s.total_s / 3600,
    (s: Scenario, v: number) => {
      s.total_s = v * 3600;
    },
  ],
  goal: [
    (s: Scenario) => s.goal_snr,
    (s: Scenario, v: number) => {
      s.goal_snr = v;
    },
  ],
} as const satisfies Record<string, readonly [(s: Scenario) => number | undefined, (s: Scenario, v: number) => void]>;

/** Writes what differs from `stored` into the parameters, and takes out what does not. */
export function sceneToParams(stored: Scenario, draft: Scenario, params: URLSearchParams) {
  for (const [key, [get]] of Object.entries(NUMBERS)) {
    const [was, is] = [get(stored), get(draft)];
    if (is === undefined || was === is) params.delete(key);
    else params.set(key, String(Number(is.toPrecision(6))));
  }
  const moon = (s: Scenario) =>
    s.sky.moon ? `${s.sky.moon.phase_angle_deg}_${s.sky.moon.altitude_deg}_${s.sky.moon.separation_deg}` : "none";
  if (moon(stored) === moon(draft)) params.delete("moon");
  else params.set("moon", moon(draft));
}

/** The scenario with the scene of an address laid over it; the same object where the address says nothing. */
export function applyParams(scenario: Scenario, params: URLSearchParams): Scenario {
  const next = structuredClone(scenario);
  let changed = false;
  for (const [key, [, set]] of Object.entries(NUMBERS)) {
    const value = Number(params.get(key) ?? Number.NaN);
    if (Number.isFinite(value)) {
      set(next, value);
      changed = true;
    }
  }
  const moon = params.get("moon");
  if (moon === "none") {
    next.sky.moon = null;
    changed = true;
  } else if (moon) {
    const [phase, altitude, separation] = moon.split("_").map(Number);
    if (
      phase !== undefined &&
      altitude !== undefined &&
      separation !== undefined &&
      [phase, altitude, separation].every(Number.isFinite)
    ) {
      next.sky.moon = { phase_angle_deg: phase, altitude_deg: altitude, separation_deg: separation };
      changed = true;
    }
  }
  return changed ? next : scenario;
}
