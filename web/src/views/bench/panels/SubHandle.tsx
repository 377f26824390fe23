import { type PointerEvent, useRef } from "react";
import { seconds } from "@/parts/format";
import { PAD, type Sheet } from "./subSheet";

type Props = { sheet: Sheet; letter: string; yours: number; setSub: (t: number) => void };

/** The sub in use: dragged, or moved by the keyboard. */
export function SubHandle({ sheet: { width, height, from, to, clampX, invert }, letter, yours, setSub }: Props) {
  const drag = useRef(false);
  const handleX = clampX(yours);
  const move = (e: PointerEvent<SVGElement>) => {
    if (!drag.current) return;
    const box = e.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (box) setSub(Math.min(to, Math.max(from, invert(e.clientX - box.left))));
  };
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={`Your sub of path ${letter}`}
      aria-valuemin={Math.round(from)}
      aria-valuemax={Math.round(to)}
      aria-valuenow={yours}
      aria-valuetext={seconds(yours)}
      data-testid="sub-handle"
      style={{ cursor: "ew-resize", touchAction: "none" }}
      onPointerDown={(e) => {
        drag.current = true;
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={move}
      onPointerUp={() => {
        drag.current = false;
      }}
      onKeyDown={(e) => {
        const by = {
          ArrowRight: 1.05,
          ArrowUp: 1.05,
          ArrowLeft: 1 / 1.05,
          ArrowDown: 1 / 1.05,
          PageUp: 1.5,
          PageDown: 1 / 1.5,
        }[e.key];
        if (by) {
          e.preventDefault();
          setSub(Math.min(to, Math.max(from, yours * by)));
        }
      }}
    >
      <rect x={handleX - 9} y={PAD.top - 8} width={18} height={height - PAD.bottom - PAD.top + 16} fill="transparent" />
      <line
        x1={handleX}
        x2={handleX}
        y1={PAD.top - 2}
        y2={height - PAD.bottom}
        stroke="var(--decide)"
        strokeWidth={2}
      />
      <circle cx={handleX} cy={height - PAD.bottom} r={7} fill="var(--salt)" stroke="var(--ground)" strokeWidth={2} />
      <text
        x={handleX + (handleX > width - 110 ? -10 : 10)}
        y={height - PAD.bottom - 24}
        textAnchor={handleX > width - 110 ? "end" : "start"}
        fill="var(--decide)"
        stroke="var(--surface)"
        strokeWidth={6}
        paintOrder="stroke"
        strokeLinejoin="round"
        style={{ fontSize: 13 }}
      >
        yours {seconds(yours)}
      </text>
    </g>
  );
}
