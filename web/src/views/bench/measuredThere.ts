import type { Scenario } from "@/api/client";

/** Takes a brightness as measured towards the target where that stands now; null takes the reading away. */
export function measuredThere(sky: Scenario["sky"], v_mag: number | null) {
  sky.toward_target_v_mag = v_mag;
  sky.toward_target_altitude_deg = v_mag === null ? null : sky.target_altitude_deg;
  sky.toward_target_azimuth_deg = v_mag === null ? null : (sky.target_azimuth_deg ?? null);
}
