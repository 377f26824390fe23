import { useQuery } from "@tanstack/react-query";
import type { CatalogueObject, SkyAround } from "@/api/client";
import { figuresQuery, starsQuery } from "@/api/queries";
import { SkyFigures } from "./SkyFigures";

const [W, H] = [420, 190];
/** Half the drawing's height on the sky, degrees. */
const REACH_DEG = 14;
const scale = H / 2 / (Math.tan((REACH_DEG * Math.PI) / 180) * 3437.7);
const place = (east: number, north: number): [number, number] => [W / 2 - east * scale, H / 2 - north * scale];

/** The constellations around an object, with the Milky Way: where to look for it. */
export function WhereItLies({ object }: { object: CatalogueObject }) {
  const around = useQuery(figuresQuery(object.ra_deg, object.dec_deg, 32));
  const stars = useQuery(starsQuery(object.ra_deg, object.dec_deg, 15));
  if (!around.data) return null;
  const [x, y] = [W / 2, H / 2];
  return (
    <figure className="rounded-xl bg-surface px-4 py-3">
      <h2 className="mb-1 text-[1.02rem] font-medium">Where it lies</h2>
      <svg
        viewBox={`0 0 ${W} ${H}`}
        className="w-full rounded-lg bg-well"
        role="img"
        aria-label={`Where ${object.name} lies: ${around.data.figures.map((f) => f.name).join(", ")} around it`}
      >
        <SkyFigures around={around.data} place={place} />
        {stars.data
          ?.filter((s) => s.star.v_mag < 5)
          .map((s) => {
            const [sx, sy] = place(s.east_arcmin, s.north_arcmin);
            const r = Math.max(0.5, 2.4 - 0.4 * s.star.v_mag);
            return <circle key={`${s.star.ra_deg} ${s.star.dec_deg}`} cx={sx} cy={sy} r={r} fill="var(--ink)" />;
          })}
        {around.data.figures.map((f) => (
          <FigureName key={f.name} figure={f} />
        ))}
        <circle cx={x} cy={y} r={7} fill="none" stroke="var(--salt)" strokeWidth={1.6} />
        <text x={x + 11} y={y - 7} fill="var(--salt)" fontSize={11} {...OUTLINE}>
          {object.name}
        </text>
      </svg>
      <figcaption className="mt-0.5 text-[0.82rem] text-muted">
        {2 * REACH_DEG}° high, north up, east to the left; stars to V 5 within 15°.
      </figcaption>
    </figure>
  );
}

const OUTLINE = { stroke: "var(--well)", strokeWidth: 3, paintOrder: "stroke" } as const;

/** A constellation's name amid as much of its figure as is drawn. */
function FigureName({ figure }: { figure: SkyAround["figures"][number] }) {
  const seen = figure.lines.flatMap((line) => {
    const out: [number, number][] = [];
    for (let k = 0; k + 1 < line.length; k += 2) {
      const [x, y] = place(line[k] as number, line[k + 1] as number);
      if (x > 0 && x < W && y > 0 && y < H) out.push([x, y]);
    }
    return out;
  });
  if (seen.length < 2) return null;
  const mean = (i: 0 | 1) => seen.reduce((sum, p) => sum + p[i], 0) / seen.length;
  const [x, y] = [Math.min(W - 45, Math.max(45, mean(0))), Math.min(H - 8, Math.max(14, mean(1)))];
  // Not over the object's ring and its name.
  const over = Math.abs(y - H / 2) < 22 && x > W / 2 - 45 && x < W / 2 + 130;
  return (
    <text x={x} y={over ? H / 2 + 30 : y} textAnchor="middle" fill="var(--muted)" fontSize={10} {...OUTLINE}>
      {figure.name}
    </text>
  );
}
