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

const KEY = "salt-lamp.filter-names";
const nameOf = (e: Exposure) => e.filter?.name ?? "none";

/** What headers call which filter, as it was said here before. */
function remembered(): Record<string, string> {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "{}") as Record<string, string>;
  } catch {
    return {};
  }
}

/** Remembers which filter a header means by a name. */
export function remember(name: string | null | undefined, exposure: Exposure | undefined) {
  if (name && exposure) localStorage.setItem(KEY, JSON.stringify({ ...remembered(), [name]: nameOf(exposure) }));
}

/** The exposure that a header's filter is: as it was said before, else whose name fits best; the first where none fits. */
export function exposureOf(exposures: readonly Exposure[], name: string | null | undefined): number {
  if (!name) return 0;
  const known = exposures.findIndex((e) => nameOf(e) === remembered()[name]);
  if (known >= 0) return known;
  const said = words(name).map((w) => SHORT[w] ?? w);
  const fit = exposures.map((e) => {
    const own = words(nameOf(e)).map((w) => SHORT[w] ?? w);
    return said.filter((w) => own.includes(w)).length;
  });
  return Math.max(0, fit.indexOf(Math.max(...fit)));
}
