import { ClipboardPaste, FileUp } from "lucide-react";
import { useRef, useState } from "react";
import { readCurve } from "@/api/queries";
import { MOST_DRAGGED, PointsChart } from "@/charts/PointsChart";
import { Button } from "@/parts/controls/Button";
import { type Columns, CurveReadingBox, type Reading } from "./CurveReadingBox";
import { MOST_ROWS, PointsTable } from "./PointsTable";

type Points = number[][];
type Props = { label: string; points: Points; onChange: (points: Points, source: string) => void };

/** A curve as a picture whose points can be dragged, as a table, and as text from a file or a spreadsheet. */
export function CurveEditor({ label, points, onChange }: Props) {
  const file = useRef<HTMLInputElement>(null);
  const [reading, setReading] = useState<Reading | null>(null);
  const [pasting, setPasting] = useState(false);
  const [table, setTable] = useState(false);
  const first = points[0]?.[0] ?? 400;
  const last = points.at(-1)?.[0] ?? 700;
  const margin = Math.max(2, (last - first) * 0.04);
  const move = (i: number, nm: number, value: number) => {
    const [before, after] = [
      points[i - 1]?.[0] ?? Number.NEGATIVE_INFINITY,
      points[i + 1]?.[0] ?? Number.POSITIVE_INFINITY,
    ];
    const next = points.map((p) => [...p]);
    next[i] = [
      Math.min(after - 0.1, Math.max(before + 0.1, Math.round(nm * 10) / 10)),
      Math.min(1, Math.max(0, Math.round(value * 1000) / 1000)),
    ];
    onChange(next, "typed");
  };
  const read = async (from: string, text: string, columns?: Columns) => {
    try {
      setReading({ from, text, got: await readCurve(text, columns) });
      setPasting(false);
    } catch (e) {
      // With columns chosen by hand the last reading stays, so that others can be chosen.
      setReading((r) => ({ from, text, wrong: (e as Error).message, got: columns ? r?.got : undefined }));
    }
  };
  return (
    <div>
      <div className="flex flex-wrap items-center gap-2">
        <h3 className="grow font-medium">{label}</h3>
        <Button look="quiet" aria-pressed={table} onClick={() => setTable(!table)}>
          {table ? "Picture" : "Table"}
        </Button>
        <Button onClick={() => setPasting(!pasting)}>
          <ClipboardPaste size={14} aria-hidden /> Paste
        </Button>
        <Button onClick={() => file.current?.click()}>
          <FileUp size={14} aria-hidden /> Import
        </Button>
        <input
          ref={file}
          type="file"
          accept=".csv,.ecsv,.txt,.dat,text/plain,text/csv"
          className="hidden"
          aria-label={`File for ${label}`}
          data-testid="curve-file"
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            if (chosen) void chosen.text().then((t) => read(chosen.name, t));
            e.target.value = "";
          }}
        />
      </div>
      {pasting && (
        <div className="mt-2">
          <label htmlFor="paste" className="text-[0.88rem] text-muted">
            Two columns, wavelength and value, as a spreadsheet copies them
          </label>
          <textarea
            id="paste"
            rows={5}
            className="num mt-1 w-full rounded-md border border-edge bg-well p-2"
            placeholder={"480\t0.02\n485\t0.91"}
            onChange={(e) => e.target.value.trim() && void read("the clipboard", e.target.value)}
          />
        </div>
      )}
      {reading && (
        <CurveReadingBox
          reading={reading}
          choose={(c) => void read(reading.from, reading.text, c)}
          take={() => {
            if (reading.got) onChange(reading.got.curve, `imported from ${reading.from}`);
            setReading(null);
          }}
          leave={() => setReading(null)}
        />
      )}
      <div className="mt-2 min-w-0">
        {table ? (
          <PointsTable label={label} points={points} move={move} onChange={(p) => onChange(p, "typed")} />
        ) : (
          <PointsChart
            label={`${label}, ${points.length} points from ${first} to ${last} nm`}
            points={points}
            move={move}
            x={{ domain: [first - margin, last + margin] }}
            y={{ domain: [0, 1], ticks: [0, 0.5, 1], text: (t) => `${t * 100} %` }}
          />
        )}
        {(table ? points.length > MOST_ROWS : points.length > MOST_DRAGGED) && (
          <p className="text-[0.86rem] text-muted">
            {table
              ? `The first ${MOST_ROWS} of ${points.length} points; import the curve anew to change the others.`
              : `${points.length} points stand too close to be dragged: the table edits them.`}
          </p>
        )}
      </div>
    </div>
  );
}
