import type { SkyAround } from "@/api/client";

type Props = {
  around: SkyAround;
  /** Where a place stands in the drawing, from arcmin east and north. */
  place: (east: number, north: number) => [number, number];
};

/** Corners of a line or an area, as a path. */
function path(corners: readonly number[], place: Props["place"]) {
  const points: string[] = [];
  for (let k = 0; k + 1 < corners.length; k += 2) {
    const [x, y] = place(corners[k] as number, corners[k + 1] as number);
    points.push(`${x.toFixed(1)} ${y.toFixed(1)}`);
  }
  return `M${points.join("L")}`;
}

/** Constellations' figures over the Milky Way, faint. */
export function SkyFigures({ around, place }: Props) {
  return (
    <g aria-hidden>
      {around.milky_way.map((pieces, i) => (
        <path key={i} d={pieces.map((p) => `${path(p, place)}Z`).join("")} fill="var(--ink)" opacity={0.045} />
      ))}
      {around.figures.map((f) => (
        <path
          key={f.name}
          d={f.lines.map((l) => path(l, place)).join("")}
          fill="none"
          stroke="var(--muted)"
          strokeWidth={0.9}
          opacity={0.55}
        />
      ))}
    </g>
  );
}
