import type { Rig } from "@/api/client";
import { usual } from "@/parts/range";

/** A rig of two parts, everything else as it usually is. */
export const bareRig = (telescope: string, camera: string): Rig => ({
  telescope,
  camera,
  slots: [],
  binning: usual("Rig", "binning"),
  overhead_s_per_sub: usual("Rig", "overhead_s_per_sub"),
  loss_per_hour: usual("Rig", "loss_per_hour"),
});
