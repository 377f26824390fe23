/** What may stand in a view: numbers, words, and yes or no; null where the answer's side knows better. */
type Values = Record<string, number | string | boolean | null>;

/** "palette:hoo,time_fraction:0.25" of what differs from the usual; null where nothing does. */
export function writeView(view: Values, usual: Values): string | null {
  const parts = Object.entries(view).filter(([key, v]) => v !== usual[key]);
  return parts.length ? parts.map(([key, v]) => `${key}:${v}`).join(",") : null;
}

/** Reads what {@link writeView} wrote: what it does not know, or what is of another kind, it leaves out. */
export function readView<T extends Values>(text: string | null, usual: T): T {
  const out: Values = { ...usual };
  for (const part of (text ?? "").split(",")) {
    const [key = "", value = ""] = part.split(":");
    const was = usual[key];
    if (typeof was === "number" && value !== "" && Number.isFinite(Number(value))) out[key] = Number(value);
    else if (typeof was === "boolean" && /^(true|false)$/.test(value)) out[key] = value === "true";
    else if (typeof was === "string" && /^[a-z_]+$/.test(value)) out[key] = value;
  }
  return out as T;
}
