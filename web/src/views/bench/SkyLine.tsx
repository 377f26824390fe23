import type { BenchAnswer } from "@/api/client";
import { mag } from "@/parts/format";

/** What the line at the foot says of the sky that the figures are under. */
export const SkyLine = ({ sky }: { sky: BenchAnswer["evaluation"]["sky"] }) => (
  <>
    <span>
      Sky towards the target <b className="num font-medium text-ink">{mag(sky.total_v_mag)}</b> mag/arcsec²
    </span>
    <span>
      natural {mag(sky.natural_v_mag)}, lamps {mag(sky.artificial_v_mag)}, moon {mag(sky.moon_v_mag)}, twilight{" "}
      {mag(sky.twilight_v_mag)}
    </span>
    <span>airmass {sky.airmass.toFixed(2)}</span>
    <span>extinction {sky.k_v.toFixed(2)} mag</span>
  </>
);
