/** Positions from best to worst; those in one group are as good as each other. */
export type Groups = readonly (readonly number[])[];

/** Puts a picture next in the order, or beside the last where it is as good; one that stands in it already is taken out. */
export function picked(groups: Groups, i: number, asGood: boolean): Groups {
  if (groups.some((g) => g.includes(i))) return groups.map((g) => g.filter((k) => k !== i)).filter((g) => g.length > 0);
  const last = groups.at(-1);
  return asGood && last ? [...groups.slice(0, -1), [...last, i]] : [...groups, [i]];
}

/** The place of a picture, from 0 for the best; -1 for none. */
export const placeOf = (groups: Groups, i: number) => groups.findIndex((g) => g.includes(i));

/** How many stand in the order. */
export const chosen = (groups: Groups) => groups.reduce((n, g) => n + g.length, 0);
