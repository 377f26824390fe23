import type { NightAnswer, PlanBlock, TargetNight } from "@/api/client";
import { localTime } from "@/parts/evening";
import { many } from "@/parts/format";
import { hue } from "@/theme/marks";
import { BLOCK, blockRows, EDGE, PAD, type TimeScale } from "./layout";
import { type Locks, locksOf } from "./locks";
import { blockId, type useBlockMoves } from "./useBlockMoves";

type Moves = ReturnType<typeof useBlockMoves>;
type Props = {
  night: NightAnswer;
  x: TimeScale;
  moves: Moves;
  locked: Locks;
  toggle: (whose: number, block: PlanBlock) => void;
};

/** The plan's blocks, a row a target. */
export function PlanBlocks({ night, locked, ...props }: Props) {
  return blockRows(night).map(({ whose, of, top: y0, rim }) => (
    <g key={whose}>
      <text x={PAD.left - 8} y={y0 + 26} textAnchor="end" fill="var(--ink)">
        {night.others.length > 0 ? (of.target.length > 14 ? `${of.target.slice(0, 13)}…` : of.target) : "plan"}
      </text>
      {of.plan.blocks.map((b, i) => {
        const kept = locksOf(locked, whose).some((l) => l.exposure === b.exposure && Math.abs(l.from_s - b.from_s) < 1);
        return (
          <Block
            key={blockId(whose, i)}
            {...props}
            {...{ night, whose, of, y0, rim, i, b }}
            isLocked={b.locked || kept}
          />
        );
      })}
    </g>
  ));
}

type BlockProps = Omit<Props, "locked"> & {
  whose: number;
  of: TargetNight;
  y0: number;
  rim: string;
  i: number;
  b: PlanBlock;
  isLocked: boolean;
};

/** The block is a slider of time: arrows move it, Shift and arrows change its length, Enter locks it. */
function Block({ night, x, moves, toggle, whose, of, y0, rim, i, b, isLocked }: BlockProps) {
  const { from, to } = moves.at(whose, i, b);
  const id = blockId(whose, i);
  const hours = `${localTime(b.from_s, night.clock)} to ${localTime(b.to_s, night.clock)}`;
  const fill = hue(of.plan.totals[b.exposure]?.quantity ?? "continuum");
  const name = `${night.others.length > 0 ? `${of.target}, ` : ""}${b.filter}, ${hours}, ${many(b.subs)}${isLocked ? ", locked" : ""}`;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-pressed={isLocked}
      aria-label={`${name}. Arrows move it, Enter locks it.`}
      data-testid={id}
      onFocus={() => moves.hold(whose, i)}
      onKeyDown={(e) => moves.key(e, whose, i, b)}
      onPointerDown={(e) => moves.grab(e, whose, i, b, "both")}
      onPointerMove={(e) => moves.move(e, b)}
      onPointerUp={() => moves.drop(b)}
      onDoubleClick={() => toggle(whose, b)}
      onPointerCancel={moves.cancel}
      // A group has no box of its own: only its pieces can say that a finger on them does not scroll.
      className="cursor-grab **:touch-none"
    >
      <rect
        x={x(from)}
        y={y0}
        width={Math.max(4, x(to) - x(from))}
        height={BLOCK}
        rx={7}
        fill={fill}
        opacity={moves.dragged(whose, i) ? 0.6 : 1}
        stroke={isLocked ? "var(--decide)" : rim}
        strokeWidth={isLocked ? 2.5 : 1.5}
      />
      {b.flip_s != null && (
        <line x1={x(b.flip_s)} x2={x(b.flip_s)} y1={y0} y2={y0 + BLOCK} stroke="var(--ground)" strokeDasharray="2 2" />
      )}
      <BlockWords {...{ b, from, to, x, y0, fill, isLocked, clock: night.clock }} dragged={moves.dragged(whose, i)} />
      {(["from", "to"] as const).map((edge) => (
        <rect
          key={edge}
          x={(edge === "from" ? x(from) : x(to)) - EDGE / 2}
          y={y0}
          width={EDGE}
          height={BLOCK}
          fill="transparent"
          style={{ cursor: "ew-resize" }}
          data-testid={`${id}-${edge}`}
          onPointerDown={(e) => moves.grab(e, whose, i, b, edge)}
          onPointerMove={(e) => moves.move(e, b)}
          onPointerUp={() => moves.drop(b)}
        />
      ))}
    </g>
  );
}

type WordsProps = {
  b: PlanBlock;
  from: number;
  to: number;
  x: TimeScale;
  y0: number;
  /** The colour of the block, which the words keep around them. */
  fill: string;
  isLocked: boolean;
  dragged: boolean;
  clock: NightAnswer["clock"];
};

/** Filter and subs of a block, as far as it has room; while it is dragged, its times. */
function BlockWords({ b, from, to, x, y0, fill, isLocked, dragged, clock }: WordsProps) {
  const w = Math.max(4, x(to) - x(from));
  if (w <= 60) return null;
  const subs = w < 88 ? many(b.subs) : `${b.subs} × ${b.sub_s} s${isLocked && w > 150 ? " · locked" : ""}`;
  return (
    <g fill="var(--ground)" stroke={fill} strokeWidth={5} strokeLinejoin="round" paintOrder="stroke">
      <text x={x(from) + 8} y={y0 + 18} fontWeight={700}>
        {b.filter.length > w / 8 ? `${b.filter.slice(0, Math.floor(w / 8) - 1)}…` : b.filter}
      </text>
      <text x={x(from) + 8} y={y0 + 34}>
        {dragged ? `${localTime(from, clock)}–${localTime(to, clock)}` : subs}
      </text>
    </g>
  );
}
