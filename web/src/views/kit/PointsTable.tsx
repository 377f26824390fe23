import { Plus } from "lucide-react";
import { readAmount } from "@/parts/amount";
import { Button } from "@/parts/controls/Button";

/** Rows that the table shows: more of them would only be slow. */
export const MOST_ROWS = 400;

type Props = {
  label: string;
  points: number[][];
  move: (i: number, nm: number, value: number) => void;
  onChange: (points: number[][]) => void;
};

/** A curve as a table to type in. */
export function PointsTable({ label, points, move, onChange }: Props) {
  const last = points.at(-1)?.[0] ?? 700;
  return (
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
                  onClick={() => onChange(points.filter((_, j) => j !== i))}
                >
                  remove
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button look="quiet" onClick={() => onChange([...points, [last + 5, 0]])}>
        <Plus size={14} aria-hidden /> Point
      </Button>
    </div>
  );
}
