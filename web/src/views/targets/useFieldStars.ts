import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { CatalogueObject, Library } from "@/api/client";
import { fieldStarsQuery } from "@/api/queries";
import { skyOf, useRigAndSite } from "@/parts/evening";
import { useRested } from "@/parts/useRested";
import type { Placed } from "./fieldGeometry";

/** A star's halo: where the star stands, and how wide the halo is. */
export type Halo = { ra_deg: number; dec_deg: number; arcsec: number };

/** What a light path makes of the real stars where the frame stands: which clip, and which halo. */
export function useFieldStars(object: CatalogueObject, library: Library, stands: Placed) {
  const choice = useRigAndSite(library);
  const { site, used } = choice;
  const rested = useRested(stands, 200);
  const { data } = useQuery(
    fieldStarsQuery(
      used
        ? {
            at: { ra_deg: object.ra_deg, dec_deg: object.dec_deg, position_angle_deg: rested.angle },
            east_arcmin: rested.east,
            north_arcmin: rested.north,
            scenario: { ...used.scenario, ...(site && { sky: skyOf(used.scenario.sky, site) }) },
            contender: used.contender,
          }
        : null,
    ),
  );
  const halos = useMemo(
    () =>
      (data?.exposures ?? []).flatMap((e): Halo[] =>
        e.ghosts.flatMap((ghost) =>
          (data?.stars ?? [])
            .filter(({ star }) => star.v_mag < ghost.plain_from_v_mag)
            .map(({ star }) => ({
              ra_deg: star.ra_deg,
              dec_deg: star.dec_deg,
              arcsec: ghost.diameter_arcsec,
            })),
        ),
      ),
    [data],
  );
  return { answer: data, choice, halos };
}
