import type { FrameRig, Library } from "@/api/client";

/** As much of a rig as its field hangs on. */
export type BareRig = NonNullable<FrameRig["field"]>;

/** A rig whose field is drawn. */
export type DrawnRig = { key: string; name: string; ask: FrameRig };

/** How a rig that stands on no shelf is written in the address. */
export const keyOf = (r: BareRig) =>
  `=${[r.focal_length_mm, r.pixel_um, r.columns, r.rows, encodeURIComponent(r.name).replaceAll("~", "%7E")].join("~")}`;

function bareOf(key: string): BareRig | null {
  const [focal, pixel, columns, rows, name] = key.slice(1).split("~");
  const numbers = [focal, pixel, columns, rows].map(Number);
  if (name === undefined || !numbers.every((n) => Number.isFinite(n) && n > 0)) return null;
  const [focal_length_mm, pixel_um, c, r] = numbers as [number, number, number, number];
  return { name: decodeURIComponent(name), focal_length_mm, pixel_um, columns: c, rows: r };
}

/** The rigs of an address, in order: telescopes of the shelf with its cameras, or rigs of their own. What is not known falls out. */
export function rigsOf(keys: readonly string[], library: Library): DrawnRig[] {
  return keys.flatMap((key): DrawnRig[] => {
    if (key.startsWith("=")) {
      const field = bareOf(key);
      return field ? [{ key, name: field.name, ask: { field } }] : [];
    }
    const [o, c] = key.split("~");
    const optics = library.optics.find((x) => x.id === o);
    const camera = library.cameras.find((x) => x.id === c);
    if (!optics || !camera) return [];
    const name = `${optics.name}, ${camera.sensor.name}`;
    return [{ key, name, ask: { name, optics: optics.optics, sensor: camera.sensor } }];
  });
}
