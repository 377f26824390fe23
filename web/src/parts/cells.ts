/** Cells of tables on their way into files and spreadsheets: the same rule as for the files that the server writes. */

export type Cell = string | number;

const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i;

/** One line, and no formula for a spreadsheet to run; numbers stay bare. */
export function harmless(cell: Cell): string {
  const text = String(cell)
    .replaceAll(/[\p{Cc}\u2028\u2029\ufeff]/gu, " ")
    .replaceAll(/ +/g, " ")
    .trim();
  if (NUMBER.test(text)) return text;
  return /^[=+\-@]/.test(text) ? `'${text}` : text;
}

const quoted = (text: string) => (/[", ]/.test(text) || text === "" ? `"${text.replaceAll('"', '""')}"` : text);

/** A table as CSV (RFC 4180). */
export const csv = (columns: string[], rows: Cell[][]) =>
  [columns, ...rows].map((row) => row.map((c) => (c === "" ? "" : quoted(harmless(c)))).join(",")).join("\r\n") +
  "\r\n";

/** A table as cells that a spreadsheet takes from the clipboard. */
export const tsv = (columns: string[], rows: Cell[][]) =>
  [columns, ...rows].map((row) => row.map(harmless).join("\t")).join("\n");
