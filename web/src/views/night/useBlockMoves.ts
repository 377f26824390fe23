import { type KeyboardEvent, type PointerEvent, type RefObject, useEffect, useRef, useState } from "react";
import type { LockedBlock, NightAnswer, PlanBlock } from "@/api/client";
import type { TimeScale } from "./layout";

/** Blocks move in steps of five minutes, s. */
const STEP_S = 300;

type Edge = "from" | "to" | "both";
type Drag = { whose: number; index: number; edge: Edge; start: number; from: number; to: number };
type Held = { whose: number; index: number; at: LockedBlock };

export const blockId = (whose: number, i: number) => (whose === 0 ? `block-${i}` : `block-${whose + 1}-${i}`);

type Props = {
  night: NightAnswer;
  box: RefObject<HTMLDivElement | null>;
  x: TimeScale;
  /** Moves what stands where `was` says to `to`, and keeps it there. */
  lock: (whose: number, was: LockedBlock, to: LockedBlock) => void;
  toggle: (whose: number, block: PlanBlock) => void;
};

/** Moving blocks by pointer and by keys: arrows move, Shift and arrows change the length, Enter locks. */
export function useBlockMoves({ night, box, x, lock, toggle }: Props) {
  const [drag, setDrag] = useState<Drag | null>(null);
  // The block that arrows move: where it was last put, though the plan that shows it there may still be on its way.
  const held = useRef<Held | null>(null);
  const holds = (whose: number, index: number) => held.current?.whose === whose && held.current.index === index;
  useEffect(() => {
    const own = held.current;
    if (!own) return;
    own.index = nearest(night, own);
    const inside = document.activeElement === document.body || box.current?.contains(document.activeElement);
    if (inside) box.current?.querySelector<SVGGElement>(`[data-testid="${blockId(own.whose, own.index)}"]`)?.focus();
  }, [night, box]);
  const timeAt = (e: PointerEvent, of: HTMLElement) => x.invert(e.clientX - of.getBoundingClientRect().left);
  const dragged = (whose: number, index: number) => drag?.whose === whose && drag.index === index;
  return {
    dragged,
    /** Where a block is to be drawn. */
    at: (whose: number, index: number, b: PlanBlock) =>
      drag && dragged(whose, index) ? { from: drag.from, to: drag.to } : { from: b.from_s, to: b.to_s },
    hold: (whose: number, index: number) => {
      if (!holds(whose, index)) held.current = null;
    },
    grab: (e: PointerEvent<SVGElement>, whose: number, index: number, b: PlanBlock, edge: Edge) => {
      if (!box.current) return;
      e.stopPropagation();
      (e.currentTarget as SVGElement).setPointerCapture(e.pointerId);
      setDrag({ whose, index, edge, start: timeAt(e, box.current), from: b.from_s, to: b.to_s });
    },
    move: (e: PointerEvent, b: PlanBlock) => {
      if (!drag || !box.current) return;
      const by = Math.round((timeAt(e, box.current) - drag.start) / STEP_S) * STEP_S;
      setDrag({
        ...drag,
        from: drag.edge === "to" ? drag.from : b.from_s + by,
        to: drag.edge === "from" ? drag.to : b.to_s + by,
      });
    },
    drop: (b: PlanBlock) => {
      if (drag && drag.to - drag.from >= STEP_S && (drag.from !== b.from_s || drag.to !== b.to_s))
        lock(drag.whose, b, { exposure: b.exposure, from_s: drag.from, to_s: drag.to });
      setDrag(null);
    },
    /** What was begun is taken back. */
    cancel: () => setDrag(null),
    key: (e: KeyboardEvent, whose: number, index: number, b: PlanBlock) => {
      const by = { ArrowLeft: -STEP_S, ArrowRight: STEP_S }[e.key];
      if (by) {
        e.preventDefault();
        const own = holds(whose, index) ? (held.current as Held).at : b;
        const from_s = e.shiftKey ? own.from_s : own.from_s + by;
        const to = { exposure: b.exposure, from_s, to_s: Math.max(from_s + STEP_S, own.to_s + by) };
        held.current = { whose, index, at: to };
        lock(whose, own, to);
      }
      if (e.key === "Enter" || e.key === " ") {
        e.preventDefault();
        toggle(whose, b);
      }
    },
  };
}

/** The block of a new plan that stands nearest to where the held one was put. */
function nearest(night: NightAnswer, own: Held): number {
  const blocks = [night.first, ...night.others][own.whose]?.plan.blocks ?? [];
  const off = (b: PlanBlock) => (b.exposure === own.at.exposure ? Math.abs(b.from_s - own.at.from_s) : Infinity);
  return blocks.reduce((best, b, i) => (off(b) < off(blocks[best] ?? b) ? i : best), 0);
}
