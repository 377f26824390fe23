import { useQuery } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";
import type { CatalogueObject, KitRig, Library } from "@/api/client";
import { framingQuery, kitQuery, togetherQuery } from "@/api/queries";
import { keyOf, rigsOf } from "@/parts/rigs";
import { useParamsEdit } from "@/parts/useParams";
import { useRested } from "@/parts/useRested";
import { type Placed, panelsIn, placedIn } from "./fieldGeometry";

const DEFAULT = "refractor-90~mono-26,reflector-150~colour-26,catadioptric-200~colour-9";

/** Rigs of the kit that are drawn unasked. */
const OWN_RIGS = 3;

/** A rig of the kit in the address: by its parts, or by its field where it has a reducer of its own. */
const keyOfKit = ({ name, rig, ready }: KitRig) =>
  rig.reducer == null || !ready
    ? `${rig.telescope}~${rig.camera}`
    : keyOf({
        name,
        focal_length_mm: ready.focal_length_mm,
        pixel_um: ready.sensor.pixel_um,
        columns: ready.sensor.columns,
        rows: ready.sensor.rows,
      });

/** A frame that is kept somewhere, as the address tells it: right ascension and declination, degrees, and its angle. */
function lookIn(params: URLSearchParams) {
  const [ra_deg, dec_deg] = (params.get("at") ?? "").split(",").map(Number);
  const angle = Number(params.get("angle") ?? 0);
  return Number.isFinite(ra_deg) && Number.isFinite(dec_deg) && Number.isFinite(angle)
    ? { ra_deg: ra_deg as number, dec_deg: dec_deg as number, position_angle_deg: angle }
    : undefined;
}

/** The framing of one or several objects: all of it in the address, so that a link brings it back. */
export function useFraming(object: CatalogueObject, library: Library) {
  const [params, edit] = useParamsEdit();
  const kit = useQuery(kitQuery);
  const ofKit = (kit.data ?? []).slice(0, OWN_RIGS).flatMap((r) => (r.ready ? [keyOfKit(r)] : []));
  const wanted = params.get("rigs") ?? (ofKit.length > 0 ? ofKit.join(",") : DEFAULT);
  const keys = useMemo(() => wanted.split(",").filter(Boolean), [wanted]);
  const rigs = useMemo(() => rigsOf(keys, library), [keys, library]);
  const others = params.get("with") ?? "";
  const names = useMemo(() => [object.name, ...others.split(";").filter(Boolean)], [object.name, others]);
  // What the address leaves out is the server's to choose.
  const overlap = params.has("overlap") ? { overlap: Number(params.get("overlap")) || 0 } : {};
  const look = lookIn(params);
  const together = useQuery(
    togetherQuery({ names, ...overlap, ...(rigs[0] && { rig: rigs[0].ask }), ...(look && { look }) }),
  );
  const best = useMemo<Placed>(() => {
    const p = together.data?.placed;
    return {
      east: p?.east_arcmin ?? 0,
      north: p?.north_arcmin ?? 0,
      angle: tenth(p?.position_angle_deg ?? 0),
    };
  }, [together.data]);
  const stands = useMemo(() => placedIn(params, best), [params, best]);
  const [live, setLive] = useState<Placed | null>(null);
  const placed = live ?? stands;
  const asked = useRested(placed, live ? 60 : 0);
  const panels = panelsIn(params.get("panels"));
  const objects = together.data?.objects ?? [];
  const frames = useQuery(
    framingQuery(
      together.data && rigs.length > 0
        ? {
            at: together.data.at,
            objects,
            placed: { east_arcmin: asked.east, north_arcmin: asked.north, position_angle_deg: asked.angle },
            ...overlap,
            rigs: rigs.map((r) => r.ask),
            ...(panels && { panels }),
          }
        : null,
    ),
  );
  /** Puts the frame elsewhere than where it stands: as the address has it, which may be ahead of what is drawn. */
  const put = useCallback(
    (change: (now: Placed) => Placed) =>
      edit((p) => {
        const { east, north, angle } = change(placedIn(p, best));
        p.delete("at");
        for (const [key, value] of Object.entries({ east, north, angle })) p.set(key, String(tenth(value)));
      }),
    [edit, best],
  );
  /** Back to where it stands best. */
  const lay = (change: (p: URLSearchParams) => void = () => {}) =>
    edit((p) => {
      for (const key of ["east", "north", "angle", "at"]) p.delete(key);
      change(p);
    });
  /** Where a frame is to look, whatever stands there. */
  const lookAt = (to: { ra_deg: number; dec_deg: number; position_angle_deg?: number }) =>
    lay((p) => {
      p.set("at", `${to.ra_deg.toFixed(5)},${to.dec_deg.toFixed(5)}`);
      p.set("angle", String(Math.round((to.position_angle_deg ?? placed.angle) * 10) / 10));
    });
  return {
    rigs,
    keys,
    lookAt,
    names,
    objects,
    fields: (frames.data ?? []).slice(0, rigs.length),
    placed,
    stands,
    panels: params.get("panels") ?? "",
    wrong: together.error?.message ?? frames.error?.message,
    put,
    lay,
    move: (east: number, north: number) => setLive({ ...placed, east: tenth(east), north: tenth(north) }),
    done: () => {
      if (live) put((now) => ({ ...now, east: live.east, north: live.north }));
      setLive(null);
    },
    setRigs: (list: string[]) => edit((p) => p.set("rigs", list.join(","))),
    set: (key: "panels" | "overlap", value: string) =>
      edit((p) => {
        if (value) p.set(key, value);
        else p.delete(key);
      }),
  };
}

export type FramingState = ReturnType<typeof useFraming>;

const tenth = (n: number) => Math.round(n * 10) / 10;
