import { ClipboardPaste, FileUp, Plus } from "lucide-react";
import { useRef, useState } from "react";
import { answerOf, api, type CurveReading } from "@/api/client";
import { MOST_DRAGGED, PointsChart } from "@/charts/PointsChart";
import { readAmount } from "@/parts/amount";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";

type Points = number[][];
type Props = { label: string; points: Points; onChange: (points: Points, source: string) => void };

/** A text that was read, with what was understood or why not. */
type Reading = { from: string; text: string; got?: CurveReading; wrong?: string };

/** Rows that the table shows: more of them would only be slow. */
const MOST_ROWS = 400;

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
      setReading({ from, text, got: await answerOf(api.POST("/api/v1/curves/read", { body: { text, ...columns } })) });
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
        <div
          className="mt-2 rounded-lg border border-edge bg-well p-3"
          role={reading.wrong ? "alert" : "status"}
          data-testid="curve-reading"
        >
          {reading.wrong && (
            <p className="text-danger">
              {reading.from}: {reading.wrong}
            </p>
          )}
          {reading.got && (
            <>
              {!reading.wrong && (
                <p>
                  From {reading.from}: {reading.got.understood.join("; ")}.
                </p>
              )}
              {reading.got.columns.length > 2 && (
                <ColumnChoice got={reading.got} choose={(c) => void read(reading.from, reading.text, c)} />
              )}
              {!reading.wrong &&
                reading.got.mended.map((m) => (
                  <p key={m} className="text-amber">
                    {m}
                  </p>
                ))}
              <div className="mt-2 flex gap-2">
                <Button
                  look="lit"
                  disabled={!!reading.wrong}
                  onClick={() => {
                    if (reading.got) onChange(reading.got.curve, `imported from ${reading.from}`);
                    setReading(null);
                  }}
                >
                  Take this curve
                </Button>
                <Button onClick={() => setReading(null)}>Leave it</Button>
              </div>
            </>
          )}
        </div>
      )}
      <div className="mt-2 min-w-0">
        {table ? (
          <div className="max-h-56 overflow-y-auto" tabIndex={0} role="region" aria-label={`${label}, table`}>
            <table className="num w-full text-[0.9rem]">
              <thead className="text-muted">
                <tr>
                  <th scope="col" className="text-left font-normal">
                    nm
                  </th>
                  <th scope="col" className="text-left font-normal">
                    0–1
                  </th>
                </tr>
              </thead>
              <tbody>
                {points.slice(0, MOST_ROWS).map((p, i) => (
                  <tr key={i}>
                    {[0, 1].map((k) => (
                      <td key={k} className="pr-2">
                        <input
                          aria-label={`${k === 0 ? "Wavelength" : "Value"} of point ${i + 1}`}
                          defaultValue={p[k]}
                          key={p[k]}
                          className="w-full rounded border border-edge bg-well px-1"
                          onBlur={(e) => {
                            const v = readAmount(e.target.value).value ?? null;
                            if (v !== null && v !== p[k]) move(i, k === 0 ? v : (p[0] ?? 0), k === 1 ? v : (p[1] ?? 0));
                          }}
                        />
                      </td>
                    ))}
                    <td>
                      <button
                        type="button"
                        className="rounded px-1.5 text-muted hover:text-danger disabled:opacity-40"
                        disabled={points.length <= 2}
                        aria-label={`Remove point ${i + 1}`}
                        onClick={() =>
                          onChange(
                            points.filter((_, j) => j !== i),
                            "typed",
                          )
                        }
                      >
                        remove
                      </button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            <Button look="quiet" onClick={() => onChange([...points, [last + 5, 0]], "typed")}>
              <Plus size={14} aria-hidden /> Point
            </Button>
          </div>
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

type Columns = { wavelength_column: number; value_column: number };

/** Which column is the wavelength and which the value, where a file has more than two. */
function ColumnChoice({ got, choose }: { got: CurveReading; choose: (columns: Columns) => void }) {
  const options = got.columns.map((label, i) => ({ value: String(i), label }));
  const now: Columns = { wavelength_column: got.wavelength_column, value_column: got.value_column };
  return (
    <div className="my-2 grid max-w-md grid-cols-2 gap-2.5">
      <Select
        label="Wavelength column"
        value={String(now.wavelength_column)}
        options={options}
        testId="wavelength-column"
        onChange={(i) => choose({ ...now, wavelength_column: Number(i) })}
      />
      <Select
        label="Value column"
        value={String(now.value_column)}
        options={options}
        testId="value-column"
        onChange={(i) => choose({ ...now, value_column: Number(i) })}
      />
    </div>
  );
}
