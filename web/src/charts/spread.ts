/** Moves labels apart so that none overlaps its neighbour, keeping their order and staying within the range. */
export function spread(wanted: readonly number[], gap: number, [from, to]: readonly [number, number]): number[] {
  const order = wanted.map((y, i) => ({ y, i })).sort((a, b) => a.y - b.y);
  const placed: number[] = [];
  for (const { y } of order) placed.push(Math.max(y, (placed.at(-1) ?? Number.NEGATIVE_INFINITY) + gap, from));
  for (let i = placed.length - 1; i >= 0; i--)
    placed[i] = Math.min(placed[i] ?? to, i === placed.length - 1 ? to : (placed[i + 1] ?? to) - gap);
  const out = new Array<number>(wanted.length);
  order.forEach(({ i }, k) => {
    out[i] = placed[k] ?? 0;
  });
  return out;
}

/** A level for each stretch so that none on a level overlaps another: the lowest free one, from left to right. */
export function levels(stretches: readonly (readonly [number, number])[]): number[] {
  const out = new Array<number>(stretches.length).fill(0);
  const ends: number[] = [];
  const order = stretches.map(([from, to], i) => ({ from, to, i })).sort((a, b) => a.from - b.from);
  for (const { from, to, i } of order) {
    const free = ends.findIndex((end) => end <= from);
    const level = free < 0 ? ends.length : free;
    ends[level] = to;
    out[i] = level;
  }
  return out;
}

/** Those of ascending values that stand at least `gap` pixels from the one kept before. */
export function apart(values: readonly number[], at: (value: number) => number, gap: number): number[] {
  const kept: number[] = [];
  for (const v of values) if (kept.length === 0 || at(v) - at(kept.at(-1) as number) >= gap) kept.push(v);
  return kept;
}
