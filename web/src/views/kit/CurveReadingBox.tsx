import type { CurveReading } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";

/** A text that was read, with what was understood or why not. */
export type Reading = { from: string; text: string; got?: CurveReading; wrong?: string };
export type Columns = { wavelength_column: number; value_column: number };

type Props = { reading: Reading; choose: (columns: Columns) => void; take: () => void; leave: () => void };

/** What was understood of a curve's text, to be taken or left. */
export function CurveReadingBox({ reading, choose, take, leave }: Props) {
  return (
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
          {reading.got.columns.length > 2 && <ColumnChoice got={reading.got} choose={choose} />}
          {!reading.wrong &&
            reading.got.mended.map((m) => (
              <p key={m} className="text-amber">
                {m}
              </p>
            ))}
          <div className="mt-2 flex gap-2">
            <Button look="lit" disabled={!!reading.wrong} onClick={take}>
              Take this curve
            </Button>
            <Button onClick={leave}>Leave it</Button>
          </div>
        </>
      )}
    </div>
  );
}

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
