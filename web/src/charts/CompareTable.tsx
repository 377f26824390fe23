import { useMemo, useState } from "react";
import { toast } from "sonner";
import { api, type Matrix, must, type Scenario } from "@/api/client";
import { ends } from "@/parts/format";
import { saveFile } from "@/parts/save";
import { Button } from "@/parts/ui";
import { mark } from "@/theme/marks";
import { useLive } from "@/views/bench/useLive";

type Cell = Matrix["rows"][number][number];
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
  const answer = await fetch(`/api/v1/compare?format=${format}`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(scenario),
  });
  if (!answer.ok) throw new Error("The table could not be made; see the message above the light paths.");
  return answer.text();
}

/** Every path by every quantity, sorted by any column. */
export function CompareTable({ scenario }: Props) {
  const { answer } = useLive(scenario, (body, signal) => must(api.POST("/api/v1/compare", { body, signal })));
  const [sort, setSort] = useState<{ key: string; up: boolean }>({ key: "path", up: true });
  const columns = answer?.columns ?? [];
  // The ends of a range stand under their time instead of in columns of their own.
  const at = (key: string) => columns.findIndex((c) => c.key === key);
  const own = columns.map((c, i) => ({ c, i })).filter(({ c }) => !/^time_(low|high)_/.test(c.key));
  const range = (row: Matrix["rows"][number], key: string) => {
    const quantity = /^time_([a-z]+)_h$/.exec(key)?.[1];
    const [low, high] = ["low", "high"].map((end) => row[at(`time_${end}_${quantity}_h`)]);
    return typeof low === "number" && typeof high === "number"
      ? ends({ low: Number(low), high: Number(high) }, (x) => shown(x as Cell))
      : "";
  };
  const groups: { name: string; from: number; span: number }[] = [];
  own.forEach(({ c, i }) => {
    const last = groups.at(-1);
    if (last && last.name === c.group) last.span += 1;
    else groups.push({ name: c.group, from: i, span: 1 });
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
  const save = async (format: "csv" | "ecsv" | "markdown", mime: string) => {
    try {
      const ending = format === "markdown" ? "md" : format;
      saveFile(`${scenario.title || "comparison"}.${ending}`, mime, await exported(scenario, format));
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  return (
    <section aria-label="Compare matrix" className="min-h-72 rounded-xl bg-surface px-4 pt-2 pb-3">
      <div className="flex flex-wrap items-center gap-x-2">
        <h2 className="text-[1.02rem] font-medium">All paths, all quantities</h2>
        <p className="min-w-0 grow truncate text-[0.88rem] text-muted">Click a heading to sort; × is against path A</p>
        {FILES.map(([format, label, mime]) => (
          <Button key={format} look="quiet" onClick={() => void save(format, mime)}>
            {label}
          </Button>
        ))}
      </div>
      <div className="mt-1 overflow-x-auto" tabIndex={0} role="region" aria-label="Compare matrix, table">
        <table className="text-[0.9rem]" data-testid="matrix">
          <thead>
            <tr>
              {groups.map((g) => (
                <th
                  key={`${g.name}${g.from}`}
                  scope="colgroup"
                  colSpan={g.span}
                  className={`px-2 pb-0.5 text-[0.9rem] font-medium whitespace-nowrap ${g.name ? "border-l border-edge/60" : ""}`}
                >
                  {g.name}
                </th>
              ))}
            </tr>
            <tr>
              {own.map(({ c }) => (
                <th
                  key={c.key}
                  scope="col"
                  aria-sort={sort.key === c.key ? (sort.up ? "ascending" : "descending") : "none"}
                  className={`px-2 pb-1 align-bottom font-normal ${c.is_text ? "text-left" : "text-right"}`}
                >
                  <button
                    type="button"
                    className="text-[0.85rem] whitespace-nowrap text-muted hover:text-ink"
                    onClick={() => setSort((s) => ({ key: c.key, up: s.key === c.key ? !s.up : true }))}
                  >
                    {c.label}
                    {c.unit ? `, ${c.unit}` : ""}
                    <span aria-hidden>{sort.key === c.key ? (sort.up ? " ↑" : " ↓") : ""}</span>
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={String(r[0])} className="border-t border-edge/60">
                {own
                  .map(({ c, i }) => ({ c, i, cell: r[i] as Cell }))
                  .map(({ c, i, cell }) => (
                    <td
                      key={c.key}
                      className={`px-2 py-1 align-top ${c.is_text ? "max-w-52 truncate" : "num text-right"}`}
                      style={
                        i === 0 ? { color: mark(String(cell).charCodeAt(0) - 65).colour, fontWeight: 700 } : undefined
                      }
                      title={c.is_text ? String(cell) : undefined}
                    >
                      {shown(cell)}
                      {range(r, c.key) && (
                        <span className="block text-[0.82rem] leading-4 whitespace-nowrap text-muted">
                          {range(r, c.key)}
                        </span>
                      )}
                    </td>
                  ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
