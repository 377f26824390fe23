import type { Exposure } from "@/api/client";

/** Words of a name that tell one filter from another, in small letters. */
const words = (name: string) => name.toLowerCase().match(/[a-z]+|\d+(?:\.\d+)?/g) ?? [];

/** What many programs call the filters of a wheel. */
const SHORT: Record<string, string> = {
  h: "alpha",
  ha: "alpha",
  halpha: "alpha",
  o: "iii",
  oiii: "iii",
  o3: "iii",
  s: "ii",
  sii: "ii",
  s2: "ii",
  l: "luminance",
  lum: "luminance",
  r: "red",
  g: "green",
  b: "blue",
};

/** The exposure whose filter a header's name fits best; the first where none fits. */
export function exposureOf(exposures: readonly Exposure[], name: string | null | undefined): number {
  if (!name) return 0;
  const said = words(name).map((w) => SHORT[w] ?? w);
  const fit = exposures.map((e) => {
    const own = words(e.filter?.name ?? "none").map((w) => SHORT[w] ?? w);
    return said.filter((w) => own.includes(w)).length;
  });
  return Math.max(0, fit.indexOf(Math.max(...fit)));
}
