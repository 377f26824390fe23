import { scaleLinear } from "d3-scale";
import { area, line } from "d3-shape";
import { useRef, useState } from "react";
import { useWidth } from "@/parts/useWidth";
import { Axes } from "./Axes";

type Axis = { domain: [number, number]; ticks?: number[]; text?: (value: number) => string };
type Props = {
  label: string;
  points: readonly (readonly number[])[];
  /** What the line runs through, where it goes on to the borders. */
  through?: readonly (readonly number[])[];
  move: (i: number, x: number, y: number) => void;
  /** A double click on empty ground. */
  add?: (x: number, y: number) => void;
  x: Axis;
  y: Axis;
  filled?: boolean;
  height?: number;
};

const PAD = { left: 48, right: 12, top: 8, bottom: 22 };
/** With more points than this a hand cannot tell them apart: the table edits them. */
export const MOST_DRAGGED = 120;

/** A line whose points are dragged. */
export function PointsChart({ label, points, through = points, move, add, x: xs, y: ys, filled, height = 190 }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box) || 480;
  const [held, setHeld] = useState<number | null>(null);
  const x = scaleLinear(xs.domain, [PAD.left, width - PAD.right]);
  const y = scaleLinear(ys.domain, [height - PAD.bottom, PAD.top]);
  const px = (p: readonly number[]) => x(p[0] ?? 0);
  const at = (e: React.PointerEvent | React.MouseEvent) => {
    const r = e.currentTarget.getBoundingClientRect();
    return [x.invert(e.clientX - r.left), y.invert(e.clientY - r.top)] as const;
  };
  return (
    <div ref={box} className="min-w-0">
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={label}
        style={{ fontFamily: "var(--font-mono)", fontSize: 11.5, touchAction: "none" }}
        onPointerMove={(e) => held !== null && move(held, ...at(e))}
        onPointerUp={() => setHeld(null)}
        onPointerLeave={() => setHeld(null)}
        onDoubleClick={(e) => add?.(...at(e))}
      >
        {filled && (
          <path
            d={
              area<readonly number[]>()
                .x(px)
                .y0(y(ys.domain[0]))
                .y1((p) => y(p[1] ?? 0))(through) ?? ""
            }
            fill="var(--well)"
          />
        )}
        <Axes
          box={[PAD.left, PAD.top, width - PAD.right, height - PAD.bottom]}
          x={{ scale: x, ticks: xs.ticks ?? x.ticks(6), text: xs.text }}
          y={{ scale: y, ticks: ys.ticks ?? y.ticks(4), text: ys.text }}
        />
        <path
          d={
            line<readonly number[]>()
              .x(px)
              .y((p) => y(p[1] ?? 0))(through) ?? ""
          }
          fill="none"
          stroke="var(--salt)"
          strokeWidth={1.8}
        />
        {points.length <= MOST_DRAGGED &&
          points.map((p, i) => (
            <circle
              key={i}
              cx={x(p[0] ?? 0)}
              cy={y(p[1] ?? 0)}
              r={held === i ? 6 : 4}
              fill="var(--ground)"
              stroke="var(--salt)"
              strokeWidth={1.8}
              className="cursor-grab"
              data-testid={`point-${i}`}
              onDoubleClick={(e) => e.stopPropagation()}
              onPointerDown={(e) => {
                e.currentTarget.releasePointerCapture?.(e.pointerId);
                setHeld(i);
              }}
            />
          ))}
      </svg>
    </div>
  );
}
