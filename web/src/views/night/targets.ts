/** How a target takes over from the one before it, as the address says it. */
export type ChangeKey = "sinks" | "meridian" | "best_use" | "alongside" | "at";

/** A further target of a night: "c:" and a campaign, "b:" and a comparison with its row, or "t:" and a name of the catalogue. */
export type Further = {
  what: string;
  change: ChangeKey;
  /** When it takes over, where it does so at a time. */
  time?: string;
  /** Altitude below which it is not shot, degrees; the night's own where none is said. */
  above?: number;
  /** Between these hours of the clock only. */
  before?: string;
  after?: string;
};

const CHANGES: readonly ChangeKey[] = ["sinks", "meridian", "best_use", "alongside", "at"];
const TIME = /^([01]?\d|2[0-3]):[0-5]\d$/;
const time = (text: string | undefined) => (text && TIME.test(text) ? text : undefined);

/** Writes a further target for the address. */
export const writeFurther = (f: Further) =>
  [f.what, f.change === "at" ? (f.time ?? "at") : f.change, f.above ?? "", f.before ?? "", f.after ?? ""]
    .join("|")
    .replace(/\|+$/, "");

/** Reads what {@link writeFurther} wrote; a bare name is a target of the catalogue, when the one before has sunk. */
export function readFurther(text: string): Further {
  const [what = "", change = "", above = "", before, after] = text.split("|");
  const at = time(change);
  const key = CHANGES.find((c) => c === change);
  return {
    what: /^[cbt]:/.test(what) ? what : `t:${what}`,
    change: at ? "at" : (key ?? "sinks"),
    ...(at && { time: at }),
    ...(above !== "" && Number.isFinite(Number(above)) && { above: Number(above) }),
    ...(time(before) && { before: time(before) }),
    ...(time(after) && { after: time(after) }),
  };
}

/** Spans of the night that are struck out, as "from.length" in seconds; null where there are none. */
export const writeStruckOut = (all: readonly StruckOut[]) =>
  all.length ? all.map((s) => `${s.from_s.toFixed(0)}.${(s.to_s - s.from_s).toFixed(0)}`).join("~") : null;

export type StruckOut = { from_s: number; to_s: number };

/** Reads what {@link writeStruckOut} wrote, as far as it lies within the evening's night. */
export const readStruckOut = (text: string | null, date: string): StruckOut[] => {
  const noon = Date.parse(`${date}T12:00:00Z`) / 1000;
  return (text ?? "").split("~").flatMap((part) => {
    const [from = Number.NaN, length = Number.NaN] = part.split(".").map(Number);
    // A day and a half around the date: whatever zone the site is in.
    return length >= 60 && Math.abs(from - noon - 43_200) < 129_600 ? [{ from_s: from, to_s: from + length }] : [];
  });
};

/** Strikes a span out: what it touches becomes one with it. */
export function struckOut(all: readonly StruckOut[], span: StruckOut): StruckOut[] {
  const touches = (s: StruckOut) => s.from_s <= span.to_s && s.to_s >= span.from_s;
  const own = [span, ...all.filter(touches)];
  const whole = { from_s: Math.min(...own.map((s) => s.from_s)), to_s: Math.max(...own.map((s) => s.to_s)) };
  return [...all.filter((s) => !touches(s)), whole].sort((a, b) => a.from_s - b.from_s);
}
