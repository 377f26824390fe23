/** Numbers as people type them, in the unit of the field they are typed into. */

export type Reading = { value: number; why?: undefined } | { value?: undefined; why: string };

/** Units of one kind, each with what it is in the first of them. */
const KINDS: Record<string, number>[] = [
  {
    s: 1,
    sec: 1,
    secs: 1,
    second: 1,
    seconds: 1,
    min: 60,
    mins: 60,
    minute: 60,
    minutes: 60,
    h: 3600,
    hr: 3600,
    hrs: 3600,
    hour: 3600,
    hours: 3600,
  },
  { nm: 1, å: 0.1, angstrom: 0.1, µm: 1000, μm: 1000, um: 1000, mm: 1e6, cm: 1e7, m: 1e9, km: 1e12 },
  { "″": 1, '"': 1, arcsec: 1, "′": 60, "'": 60, arcmin: 60, "°": 3600, deg: 3600, degrees: 3600 },
];
const TIME = KINDS[0] as Record<string, number>;

const NUMBER = String.raw`[+-]?(?:\d+[.,]?\d*|[.,]\d+)(?:e[+-]?\d+)?`;
const plain = new RegExp(`^${NUMBER}$`, "i");
const withUnit = new RegExp(`^(${NUMBER})\\s*([^\\d\\s+-][^\\d]*)$`, "i");
const words = new RegExp(`(${NUMBER})\\s*([a-z]+)\\s*`, "gi");

const toNumber = (text: string) => Number(text.replace(",", "."));

/** Typographic signs as the keyboard has them, and blanks within a number left out. */
const tidy = (text: string) =>
  text
    .trim()
    .replaceAll("\u2212", "-")
    .replaceAll(/[\u00a0\u202f]/g, " ")
    .replaceAll(/(?<=\d) (?=\d{3}(\D|$))/g, "");

const example = (unit: string | undefined) => {
  if (unit === "h") return "such as 4, 4 h, 1:30 or 10 x 150 s";
  if (unit === "min") return "such as 90, 25.7 min or 1:30";
  if (unit === "s") return "such as 150, 2.5 min or 1:30";
  return unit ? `such as 12.5 ${unit}` : "such as 12.5";
};

/** A time of several parts, s: "1 h 30 min", "1h30", "1:30:00". */
function timeOf(text: string, unit: string): number | null {
  const colons = /^(\d+):(\d{1,2})(?::(\d{1,2}))?$/.exec(text);
  if (colons) {
    const [a, b, c] = colons.slice(1, 4).map((x) => (x === undefined ? null : Number(x)));
    if ((b ?? 0) > 59 || (c ?? 0) > 59) return null;
    // Two parts are hours and minutes where hours or minutes are meant, minutes and seconds where seconds are.
    if (c !== null) return (a ?? 0) * 3600 + (b ?? 0) * 60 + (c ?? 0);
    return unit === "s" ? (a ?? 0) * 60 + (b ?? 0) : (a ?? 0) * 3600 + (b ?? 0) * 60;
  }
  const short = /^(\d+)\s*h\s*(\d{1,2})$/i.exec(text);
  if (short && Number(short[2]) < 60) return Number(short[1]) * 3600 + Number(short[2]) * 60;
  let [sum, read, least] = [0, "", Number.POSITIVE_INFINITY];
  for (const [whole, number = "", name = ""] of text.matchAll(words)) {
    const factor = TIME[name.toLowerCase()];
    // Large parts first, each once: "30 min 1 h" is a slip.
    if (factor === undefined || factor >= least) return null;
    sum += toNumber(number) * factor;
    least = factor;
    read += whole;
  }
  return read === text && read !== "" ? sum : null;
}

/**
 * Reads what was typed into a field of `unit`: a number with a decimal point or comma, with or without a unit of the same kind; a
 * time also as "1:30", "1 h 30 min" or a count of subs, "10 x 150 s". What is not understood says why.
 */
export function readAmount(typed: string, unit?: string): Reading {
  const text = tidy(typed);
  if (text === "") return { why: `empty; give a number, ${example(unit)}` };
  if (plain.test(text)) return { value: toNumber(text) };
  const own = unit && TIME[unit];
  if (own) {
    const product = /^(\d+)\s*[x×*]\s*(.+)$/i.exec(text);
    if (product) {
      const each = readAmount(product[2] ?? "", "s");
      return each.why !== undefined ? each : { value: (Number(product[1]) * each.value) / own };
    }
    const seconds = timeOf(text, unit);
    if (seconds !== null) return { value: seconds / own };
  }
  const [, number = "", name = ""] = withUnit.exec(text) ?? [];
  if (number) {
    const given = name.trim();
    if (unit && given.toLowerCase() === unit.toLowerCase()) return { value: toNumber(number) };
    const kind = KINDS.find((k) => unit !== undefined && k[unit] !== undefined);
    const factor = kind?.[given] ?? kind?.[given.toLowerCase()];
    if (kind && unit && factor !== undefined) return { value: (toNumber(number) * factor) / (kind[unit] ?? 1) };
    return {
      why: unit
        ? `"${given}" is no unit for this; give it in ${unit}, ${example(unit)}`
        : `give the number alone, ${example(unit)}`,
    };
  }
  return { why: `"${typed.trim()}" is not a number; give one ${example(unit)}` };
}

/** Why a number outside a range is refused. */
export function outside(value: number, min: number, max: number, unit?: string): string | undefined {
  if (value >= min && value <= max) return undefined;
  const u = unit ? ` ${unit}` : "";
  if (min === Number.NEGATIVE_INFINITY) return `give at most ${max}${u}`;
  if (max === Number.POSITIVE_INFINITY) return `give at least ${min}${u}`;
  return `give ${min} to ${max}${u}`;
}
