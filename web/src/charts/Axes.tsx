type Scale = (value: number) => number;
type Axis = {
  scale: Scale;
  ticks: readonly number[];
  text?: (value: number) => string;
  label?: string;
  colour?: string;
};
type Props = {
  x: Axis & { grid?: boolean };
  y: Axis & { grid?: boolean };
  /** Left, top, right and bottom of the plot, px. */
  box: readonly [number, number, number, number];
};

/** Ticks, their words, and the names of both axes. */
export function Axes({ x, y, box: [left, top, right, bottom] }: Props) {
  return (
    <g>
      {x.ticks.map((t) => (
        <g key={t}>
          {x.grid !== false && (
            <line x1={x.scale(t)} x2={x.scale(t)} y1={top} y2={bottom} stroke="var(--edge)" strokeWidth={0.6} />
          )}
          <text x={x.scale(t)} y={bottom + 16} textAnchor="middle" fill={x.colour ?? "var(--muted)"}>
            {x.text ? x.text(t) : t}
          </text>
        </g>
      ))}
      {y.ticks.map((t) => (
        <g key={t}>
          {y.grid && (
            <line x1={left} x2={right} y1={y.scale(t)} y2={y.scale(t)} stroke="var(--edge)" strokeWidth={0.6} />
          )}
          <text x={left - 8} y={y.scale(t) + 4} textAnchor="end" fill={y.colour ?? "var(--muted)"}>
            {y.text ? y.text(t) : t}
          </text>
        </g>
      ))}
      {x.label && (
        <text x={right} y={bottom + 30} textAnchor="end" fill="var(--muted)">
          {x.label}
        </text>
      )}
      {y.label && (
        <text
          x={12}
          y={(top + bottom) / 2}
          transform={`rotate(-90 12 ${(top + bottom) / 2})`}
          textAnchor="middle"
          fill="var(--muted)"
        >
          {y.label}
        </text>
      )}
    </g>
  );
}
