/** A square on a frame: its middle as shares of width and height, 0-1. */
export type Mark = { x: number; y: number };

/** A square of a share of the frame's shorter side about a mark, in whole pixels, within the frame. */
export function boxOf({ x, y }: Mark, share: number, [columns, rows]: readonly [number, number]) {
  const side = Math.max(8, Math.round(share * Math.min(columns, rows)));
  const place = (at: number, size: number) => Math.round(Math.min(size - side, Math.max(0, at * size - side / 2)));
  return { x: place(x, columns), y: place(y, rows), width: side, height: side };
}

/** A mark moved by a key: a hundredth of the frame, five with Shift; the same mark for any other key. */
export function movedByKey(mark: Mark, key: string, far: boolean): Mark {
  const step = far ? 0.05 : 0.01;
  const by: Record<string, [number, number]> = {
    ArrowLeft: [-step, 0],
    ArrowRight: [step, 0],
    ArrowUp: [0, -step],
    ArrowDown: [0, step],
  };
  const d = by[key];
  if (!d) return mark;
  const within = (v: number) => Math.min(1, Math.max(0, v));
  return { x: within(mark.x + d[0]), y: within(mark.y + d[1]) };
}
