import type { Overheads } from "./OverheadsPopover";

/** "settle_s:20,refocus_on_change:no" of what differs from the usual; null where nothing does. */
export function writeOverheads(o: Overheads): string | null {
  const parts = Object.entries(o).map(
    ([key, v]) => `${key}:${v === true ? "yes" : v === false ? "no" : (v ?? "never")}`,
  );
  return parts.length ? parts.join(",") : null;
}

/** Reads what {@link writeOverheads} wrote; what it does not know it leaves out. */
export function readOverheads(text: string | null): Overheads {
  const out: Record<string, number | boolean | null> = {};
  for (const part of (text ?? "").split(",")) {
    const [key = "", value = ""] = part.split(":");
    if (!/^[a-z_]+$/.test(key)) continue;
    if (value === "yes" || value === "no") out[key] = value === "yes";
    else if (value === "never") out[key] = null;
    else if (value !== "" && Number.isFinite(Number(value))) out[key] = Number(value);
  }
  return out as Overheads;
}

/** "120,90" of the minutes of a fixed list, filter by filter; null where none was set. */
export function writeMinutes(m: Record<number, number>): string | null {
  const last = Math.max(-1, ...Object.keys(m).map(Number));
  return last < 0 ? null : Array.from({ length: last + 1 }, (_, i) => m[i] ?? "").join(",");
}

/** Reads what {@link writeMinutes} wrote. */
export function readMinutes(text: string | null): Record<number, number> {
  const out: Record<number, number> = {};
  (text ?? "").split(",").forEach((part, i) => {
    if (part !== "" && Number.isFinite(Number(part))) out[i] = Number(part);
  });
  return out;
}
