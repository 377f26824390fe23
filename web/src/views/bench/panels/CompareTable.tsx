import { useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { at } from "@/api/base";
import { answerOf, api, type Matrix, type Scenario } from "@/api/client";
import { useLive } from "@/api/useLive";
import { Button } from "@/parts/controls/Button";
import { ends } from "@/parts/format";
import { saveFile } from "@/parts/save";
import { useWidth } from "@/parts/useWidth";
import { contenderMark } from "@/theme/marks";

type Row = Matrix["rows"][number];
type Cell = Row[number];
type Column = Matrix["columns"][number];
type Props = { scenario: Scenario };

const FILES = [
  ["csv", "CSV", "text/csv"],
  ["ecsv", "ECSV", "text/plain"],
  ["markdown", "Markdown", "text/markdown"],
] as const;

const shown = (cell: Cell) => {
  if (cell == null) return "–";
  if (typeof cell === "string") return cell;
  const x = cell as number;
  return x >= 1000
    ? x.toFixed(0)
    : x >= 100
      ? x.toFixed(0)
      : x >= 1
        ? x.toFixed(1).replace(/\.0$/, "")
        : Number(x.toPrecision(2)).toString();
};

async function exported(scenario: Scenario, format: "csv" | "ecsv" | "markdown"): Promise<string> {
  const answer = await fetch(at(`/api/v1/compare?format=${format}`), {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(scenario),
  });
  if (!answer.ok) throw new Error("The table could not be made; see the message above the light paths.");
  return answer.text();
}

const LABELS_PX = 118;
const PATH_PX = 70;

/** Every quantity by every path, the paths in the order of any of them. What does not fit beside each other stands below. */
export function CompareTable({ scenario }: Props) {
  const { answer } = useLive(scenario, (body, signal) => answerOf(api.POST("/api/v1/compare", { body, signal })));
  const [sort, setSort] = useState<{ key: string; up: boolean }>({ key: "path", up: true });
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const columns = answer?.columns ?? [];
  // The ends of a range stand under their time instead of in lines of their own.
  const at = (key: string) => columns.findIndex((c) => c.key === key);
  const range = (row: Row, key: string) => {
    const quantity = /^time_([a-z]+)_h$/.exec(key)?.[1];
    const [low, high] = ["low", "high"].map((end) => row[at(`time_${end}_${quantity}_h`)]);
    return typeof low === "number" && typeof high === "number"
      ? ends({ low: Number(low), high: Number(high) }, (x) => shown(x as Cell))
      : "";
  };
  const groups: { name: string; own: { c: Column; i: number }[] }[] = [];
  columns.forEach((c, i) => {
    if (i === 0 || /^time_(low|high)_/.test(c.key)) return;
    const last = groups.at(-1);
    if (last && last.name === c.group) last.own.push({ c, i });
    else groups.push({ name: c.group, own: [{ c, i }] });
  });
  const rows = useMemo(() => {
    const at = answer?.columns.findIndex((c) => c.key === sort.key) ?? -1;
    const order = (a: Cell, b: Cell) => {
      if (a == null || b == null) return (a == null ? 1 : 0) - (b == null ? 1 : 0);
      const way = sort.up ? 1 : -1;
      return typeof a === "string" ? way * a.localeCompare(String(b)) : way * (Number(a) - Number(b));
    };
    return [...(answer?.rows ?? [])].sort((a, b) => order(a[at] as Cell, b[at] as Cell));
  }, [answer, sort]);
  const fit = Math.max(1, Math.floor((width - LABELS_PX) / PATH_PX));
  const pieces = Array.from({ length: Math.ceil(rows.length / fit) }, (_, i) => rows.slice(i * fit, (i + 1) * fit));
  const save = async (format: "csv" | "ecsv" | "markdown", mime: string) => {
    try {
      const ending = format === "markdown" ? "md" : format;
      saveFile(`${scenario.title || "comparison"}.${ending}`, mime, await exported(scenario, format));
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  const sortBy = (c: Column) => (
    <button
      type="button"
      className="min-h-[24px] text-left text-muted hover:text-ink"
      onClick={() => setSort((s) => ({ key: c.key, up: s.key === c.key ? !s.up : true }))}
    >
      {c.label}
      {c.unit ? `, ${c.unit}` : ""}
      <span aria-hidden>{sort.key === c.key ? (sort.up ? " →" : " ←") : ""}</span>
    </button>
  );
  return (
    <section aria-label="Compare matrix" className="min-h-72 rounded-xl bg-surface px-4 pt-2 pb-3">
      <div className="flex flex-wrap items-center gap-x-2">
        <h2 className="text-[1.02rem] font-medium">All paths, all quantities</h2>
        <p className="min-w-0 grow basis-40 truncate text-[0.88rem] text-muted">
          Click a line to sort the paths by it; × is against path A
        </p>
        {FILES.map(([format, label, mime]) => (
          <Button key={format} look="quiet" onClick={() => void save(format, mime)}>
            {label}
          </Button>
        ))}
      </div>
      <div ref={box} className="mt-1 flex flex-col gap-4">
        {width > 0 &&
          pieces.map((piece) => (
            <table key={String(piece[0]?.[0])} className="w-full table-fixed text-[0.9rem]" data-testid="matrix">
              <colgroup>
                <col style={{ width: LABELS_PX }} />
              </colgroup>
              <thead>
                <tr>
                  <th
                    scope="row"
                    aria-sort={sorted(sort, "path")}
                    className="py-0.5 text-left text-[0.85rem] font-normal"
                  >
                    {columns[0] && sortBy(columns[0])}
                  </th>
                  {piece.map((r) => (
                    <th
                      key={String(r[0])}
                      scope="col"
                      className="text-right font-bold"
                      style={{ color: contenderMark(String(r[0]).charCodeAt(0) - 65).colour }}
                    >
                      {String(r[0])}
                    </th>
                  ))}
                </tr>
              </thead>
              {groups.map((g, n) => (
                <tbody key={`${g.name}${n}`}>
                  {g.name && (
                    <tr>
                      <th scope="rowgroup" colSpan={piece.length + 1} className="pt-2 text-left font-medium">
                        {g.name}
                      </th>
                    </tr>
                  )}
                  {g.own.map(({ c, i }) => (
                    <tr key={c.key} className="border-t border-edge/60">
                      <th scope="row" aria-sort={sorted(sort, c.key)} className="text-left text-[0.85rem] font-normal">
                        {sortBy(c)}
                      </th>
                      {piece.map((r) => (
                        <td
                          key={String(r[0])}
                          className={`py-0.5 pl-2 text-right align-top ${c.is_text ? "text-[0.85rem] leading-snug break-words" : "num"}`}
                        >
                          {shown(r[i] as Cell)}
                          {range(r, c.key) && (
                            <span className="block text-[0.82rem] leading-4 text-muted">{range(r, c.key)}</span>
                          )}
                        </td>
                      ))}
                    </tr>
                  ))}
                </tbody>
              ))}
            </table>
          ))}
      </div>
    </section>
  );
}

const sorted = (sort: { key: string; up: boolean }, key: string) =>
  sort.key === key ? (sort.up ? "ascending" : "descending") : "none";
