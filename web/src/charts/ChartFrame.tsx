import { Download, Table2 } from "lucide-react";
import { type ReactNode, useRef, useState } from "react";
import { toast } from "sonner";
import { Boundary } from "@/parts/Boundary";
import { csv, tsv } from "@/parts/cells";
import { Button, IconButton } from "@/parts/controls/Button";
import { saveFile } from "@/parts/save";
import { useWidth } from "@/parts/useWidth";
import { standalone } from "./standalone";

export type TableTwin = { columns: string[]; rows: (string | number)[][] };

type Props = {
  title: string;
  question: string;
  twin: TableTwin;
  height: number;
  side?: ReactNode;
  below?: ReactNode;
  /** On paper: without its buttons. */
  plain?: boolean;
  children: (width: number, height: number) => ReactNode;
};

type DrawnProps = { width: number; height: number; draw: Props["children"] };

/** The picture on its own, so that a fault in it stays within the frame. */
const Drawn = ({ width, height, draw }: DrawnProps) => <>{draw(width, height)}</>;

/** A chart with its question, its table twin, and its ways out: copy, CSV, SVG. */
export function ChartFrame({ title, question, twin, height, side, below, plain, children }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const [table, setTable] = useState(false);
  const saveSvg = () => {
    const svg = box.current?.querySelector("svg");
    if (!svg) return;
    saveFile(`${title}.svg`, "image/svg+xml", standalone(svg, title));
  };
  return (
    <section aria-label={title} className="rounded-xl bg-surface px-4 pt-2 pb-3">
      <div className="flex flex-wrap items-center gap-x-3">
        <h2 className="text-[1.02rem] font-medium">{title}</h2>
        <p className="min-w-0 flex-1 basis-40 truncate text-[0.88rem] text-muted" title={question}>
          {question}
        </p>
        {side}
        {!plain && (
          <>
            <Button look="quiet" className="print:hidden" aria-pressed={table} onClick={() => setTable(!table)}>
              <Table2 size={15} aria-hidden /> {table ? "Chart" : "Table"}
            </Button>
            <IconButton
              className="print:hidden"
              label={`Save "${title}" as CSV`}
              onClick={() => saveFile(`${title}.csv`, "text/csv", csv(twin.columns, twin.rows))}
            >
              <span className="num text-[0.75rem]">CSV</span>
            </IconButton>
            <IconButton className="print:hidden" label={`Save "${title}" as SVG`} onClick={saveSvg} disabled={table}>
              <Download size={15} aria-hidden />
            </IconButton>
          </>
        )}
      </div>
      <div ref={box} className="min-w-0">
        {table ? (
          <div className="mt-2 max-h-72 overflow-auto" tabIndex={0} role="region" aria-label={`${title}, table`}>
            <Button
              className="mb-2"
              onClick={() =>
                void navigator.clipboard.writeText(tsv(twin.columns, twin.rows)).then(
                  () => toast.success("Copied; paste it into a spreadsheet"),
                  () => toast.error("The browser did not allow copying; save the CSV instead"),
                )
              }
            >
              Copy
            </Button>
            <table className="num w-full table-fixed text-right text-[0.88rem] wrap-anywhere">
              <thead className="text-muted">
                <tr>
                  {twin.columns.map((c) => (
                    <th key={c} scope="col" className="px-2 py-1 font-normal">
                      {c}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {twin.rows.map((r) => (
                  <tr key={String(r[0])} className="border-t border-edge">
                    {r.map((c, i) => (
                      <td key={i} className="px-2 py-0.5">
                        {c}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        ) : (
          width > 0 && (
            <Boundary what="The chart" keys={[children]} height={height}>
              <Drawn width={width} height={height} draw={children} />
            </Boundary>
          )
        )}
      </div>
      {below}
    </section>
  );
}
