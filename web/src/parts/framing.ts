import type { FramePlan } from "@/api/client";
import { keyOf } from "@/parts/rigs";

/** A frame in words: "Framed turned 20°, 2 × 1 panels". */
export function frameWords({ at, rig, panels_wide = 1, panels_high = 1 }: FramePlan): string {
  const turned = `Framed with ${rig.name}, turned ${Math.round((at.position_angle_deg ?? 0) * 10) / 10}°`;
  return panels_wide * panels_high === 1 ? `${turned}.` : `${turned}, ${panels_wide} × ${panels_high} panels.`;
}

/** The address at which a frame that is kept is drawn over its object. */
export function framingLink(target: string, { at, rig, panels_wide = 1, panels_high = 1, overlap }: FramePlan): string {
  const params = new URLSearchParams({
    object: target,
    at: `${at.ra_deg},${at.dec_deg}`,
    angle: String(at.position_angle_deg ?? 0),
    rigs: keyOf(rig),
  });
  if (panels_wide * panels_high > 1) params.set("panels", `${panels_wide}x${panels_high}`);
  if (overlap !== undefined) params.set("overlap", String(overlap));
  return `/targets?${params}`;
}
