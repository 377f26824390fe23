import type { PointerEvent } from "react";
import { useRef } from "react";
import type { Extent, Framing, SkyAround, StarAround } from "@/api/client";
import { contenderMark } from "@/theme/marks";
import { H, type Placed, starColour, starRadius, W } from "./fieldGeometry";
import { SkyFigures } from "./SkyFigures";
import type { Halo } from "./useFieldStars";

/** Lengths that a scale bar may have, arcmin. */
const BARS = [1, 2, 5, 10, 20, 30, 60, 120, 300];

/** Keeps words apart from what they stand on. */
const OUTLINE = { stroke: "var(--well)", strokeWidth: 3, paintOrder: "stroke" } as const;

type Props = {
  /** What is framed; places are told from the first. */
  objects: readonly Extent[];
  fields: readonly Framing[];
  stars: readonly StarAround[];
  /** Halos that stars grow through the light path in question. */
  halos: readonly Halo[];
  around: SkyAround | undefined;
  placed: Placed;
  /** The drawing's middle, arcmin east and north of the first object, and its units an arcmin. */
  middle: [number, number];
  scale: number;
  move: (east_arcmin: number, north_arcmin: number) => void;
  /** The drag is over. */
  done: () => void;
};

/** What is framed with the real stars and the fields of rigs over it, to one scale: north up, east to the left. */
export function FieldDrawing({ objects, fields, stars, halos, around, placed, middle, scale, move, done }: Props) {
  const [ox, oy] = [W / 2 + middle[0] * scale, (H - 8) / 2 + middle[1] * scale];
  const place = (east: number, north: number): [number, number] => [ox - east * scale, oy - north * scale];
  const bar = BARS.findLast((m) => m * scale < W * 0.3) ?? 1;
  const unsure = objects.some((o) => o.pa_deg == null && o.minor_arcmin < o.major_arcmin);
  const svg = useRef<SVGSVGElement>(null);
  const from = useRef<{ x: number; y: number; east: number; north: number } | null>(null);
  const drag = (e: PointerEvent) => {
    if (!from.current || !svg.current) return;
    const arcmin = W / svg.current.getBoundingClientRect().width / scale;
    const [dx, dy] = [(e.clientX - from.current.x) * arcmin, (e.clientY - from.current.y) * arcmin];
    move(from.current.east - dx, from.current.north - dy);
  };
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${W} ${H}`}
      className="w-full cursor-grab touch-none rounded-lg bg-well active:cursor-grabbing"
      role="img"
      aria-label={`${objects.map((o) => `${o.name}, ${o.major_arcmin} by ${o.minor_arcmin} arcmin`).join("; ")}: under ${fields.length} fields drawn to scale with ${stars.length} stars`}
      style={{ fontFamily: "var(--font-mono)", fontSize: 11 }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = { x: e.clientX, y: e.clientY, east: placed.east, north: placed.north };
      }}
      onPointerMove={drag}
      onPointerUp={() => {
        from.current = null;
        done();
      }}
    >
      <defs>
        <radialGradient id="glow">
          <stop offset="0" stopColor="var(--ha)" stopOpacity="0.5" />
          <stop offset="0.75" stopColor="var(--ha)" stopOpacity="0.2" />
          <stop offset="1" stopColor="var(--ha)" stopOpacity="0.04" />
        </radialGradient>
      </defs>
      {around && <SkyFigures around={around} place={place} />}
      {objects.map((o, i) => (
        <ObjectShape
          key={o.name}
          object={o}
          scale={scale}
          at={place(o.east_arcmin ?? 0, o.north_arcmin ?? 0)}
          named={i > 0}
        />
      ))}
      <Stars {...{ stars, halos, scale, place }} />
      <g transform={`translate(${-placed.east * scale} ${-placed.north * scale}) rotate(${-placed.angle} ${ox} ${oy})`}>
        {fields.map((f, i) => (
          <Frame key={contenderMark(i).letter} {...{ f, i, scale, cx: ox, cy: oy }} />
        ))}
      </g>
      <line x1={10} x2={10 + bar * scale} y1={H - 9} y2={H - 9} stroke="var(--muted)" strokeWidth={1.5} />
      <text x={16 + bar * scale} y={H - 5} fill="var(--muted)" {...OUTLINE}>
        {bar >= 60 ? `${bar / 60}°` : `${bar}′`}
      </text>
      <text x={W - 8} y={H - 5} textAnchor="end" fill="var(--muted)" {...OUTLINE}>
        N up, E left
      </text>
      {unsure && (
        <text x={W - 8} y={15} textAnchor="end" fill="var(--muted)" {...OUTLINE}>
          how it lies is not known
        </text>
      )}
    </svg>
  );
}

type ShapeProps = { object: Extent; at: [number, number]; scale: number; named: boolean };

/** An object's ellipse; without an angle a circle of its area. */
function ObjectShape({ object: o, at: [x, y], scale, named }: ShapeProps) {
  const equal = Math.sqrt(o.major_arcmin * o.minor_arcmin);
  const [along, across] = o.pa_deg == null ? [equal, equal] : [o.major_arcmin, o.minor_arcmin];
  const unknown = o.major_arcmin === 0;
  return (
    <g>
      <ellipse
        cx={x}
        cy={y}
        rx={Math.max(1.5, (across * scale) / 2)}
        ry={Math.max(1.5, (along * scale) / 2)}
        transform={`rotate(${-(o.pa_deg ?? 0)} ${x} ${y})`}
        fill="url(#glow)"
        stroke="var(--ha)"
        strokeWidth={0.8}
        strokeDasharray="3 3"
      />
      {(named || unknown) && (
        <text x={x} y={y - 10} textAnchor="middle" fill="var(--muted)" {...OUTLINE}>
          {named ? o.name : ""} {unknown ? "size unknown" : ""}
        </text>
      )}
    </g>
  );
}

type StarsProps = Pick<Props, "stars" | "halos" | "scale"> & {
  place: (east: number, north: number) => [number, number];
};

function Stars({ stars, halos, scale, place }: StarsProps) {
  return (
    <g>
      {stars.map((s) => {
        const [x, y] = place(s.east_arcmin, s.north_arcmin);
        if (x < -5 || x > W + 5 || y < -5 || y > H + 5) return null;
        const named = s.star.name && s.star.v_mag < 4.5 && y > 6 && y < H - 2;
        // Beside its star, on the side that has room.
        const left = x > W - 80;
        return (
          <g key={`${s.star.ra_deg} ${s.star.dec_deg}`}>
            {halos
              .filter((h) => h.ra_deg === s.star.ra_deg && h.dec_deg === s.star.dec_deg)
              .map((h, k) => (
                <circle
                  key={k}
                  cx={x}
                  cy={y}
                  r={Math.max(starRadius(s.star.v_mag) + 2, (h.arcsec / 120) * scale)}
                  fill="none"
                  stroke="var(--amber)"
                  strokeWidth={1.2}
                  data-testid="halo"
                />
              ))}
            <circle cx={x} cy={y} r={starRadius(s.star.v_mag)} fill={starColour(s.star.b_v)} opacity={0.9} />
            {named && (
              <text
                x={left ? x - 7 : x + 7}
                y={y + 4}
                textAnchor={left ? "end" : "start"}
                fill="var(--ink)"
                {...OUTLINE}
                fontSize={9.5}
              >
                {s.star.name} {s.star.v_mag.toFixed(1)}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

function Frame({ f, i, scale, cx, cy }: { f: Framing; i: number; scale: number; cx: number; cy: number }) {
  const m = contenderMark(i);
  const [fw, fh] = [f.width_arcmin * scale, f.height_arcmin * scale];
  // Panels of the rig that frames; of the others the field alone.
  const panels = i === 0 ? f.panels : [{ right_arcmin: 0, up_arcmin: 0 }];
  const [first] = panels;
  const corner = (p: { right_arcmin: number; up_arcmin: number }): [number, number] => [
    cx + p.right_arcmin * scale - fw / 2,
    cy - p.up_arcmin * scale - fh / 2,
  ];
  const [x, y] = corner(first ?? { right_arcmin: 0, up_arcmin: 0 });
  return (
    <g>
      {panels.map((p, k) => (
        <rect
          key={k}
          x={corner(p)[0]}
          y={corner(p)[1]}
          width={fw}
          height={fh}
          fill="none"
          stroke={m.colour}
          strokeWidth={1.8}
          strokeDasharray={m.dash}
        />
      ))}
      <text x={x + 5} y={fh < 60 ? y - 4 : y + 13} fill={m.colour} {...OUTLINE}>
        {m.letter}
      </text>
    </g>
  );
}
