import type { FrameInTrial, Trial } from "@/api/trials";
import { letter } from "./words";

type Props = {
  frames: readonly FrameInTrial[];
  kinds: number;
  change: (how: (t: Trial) => Trial) => Promise<unknown>;
};

/** The frames of a trial: each one's kind and whether it counts can be put right by hand. */
export function TrialTable({ frames, kinds, change }: Props) {
  const one = (id: string, how: Partial<FrameInTrial>) =>
    void change((now) => ({ ...now, frames: now.frames?.map((f) => (f.id === id ? { ...f, ...how } : f)) }));
  const options = [
    { value: "", label: "none" },
    ...Array.from({ length: kinds }, (_, k) => ({ value: String(k), label: letter(k) })),
  ];
  const number = (v: number | null | undefined, digits: number) => (v == null ? "" : v.toPrecision(digits));
  return (
    <div className="mt-3 max-h-96 overflow-auto">
      <table className="w-full text-[0.85rem]" data-testid="trial-frames">
        <thead className="sticky top-0 bg-surface text-left text-muted">
          <tr>
            <th className="pr-2 font-normal">UTC</th>
            <th className="pr-2 font-normal">File</th>
            <th className="pr-2 font-normal">Kind</th>
            <th className="pr-2 text-right font-normal">Judged</th>
            <th className="pr-2 text-right font-normal max-sm:hidden">Clearness</th>
            <th className="pr-2 text-right font-normal max-sm:hidden">Airmass</th>
            <th className="font-normal">Counts</th>
          </tr>
        </thead>
        <tbody>
          {frames.map((f) => (
            <tr key={f.id} className={f.left_out || f.kind == null || f.measure == null ? "text-muted" : ""}>
              <td className="num pr-2">{new Date(1000 * f.start_s).toISOString().slice(11, 19)}</td>
              <td className="max-w-52 truncate pr-2">{f.name}</td>
              <td className="pr-2">
                <select
                  aria-label={`Kind of ${f.name}`}
                  value={f.kind == null ? "" : String(f.kind)}
                  onChange={(e) =>
                    one(f.id, { kind: e.target.value === "" ? null : Number(e.target.value), by_hand: true })
                  }
                  className="h-8 rounded-md border border-edge bg-well px-1 pointer-coarse:h-10"
                >
                  {options.map((o) => (
                    <option key={o.value} value={o.value}>
                      {o.label}
                    </option>
                  ))}
                </select>
              </td>
              <td className="num pr-2 text-right">{f.measure == null ? "not measured" : number(f.measure, 4)}</td>
              <td className="num pr-2 text-right max-sm:hidden">{number(f.known?.transparency, 3)}</td>
              <td className="num pr-2 text-right max-sm:hidden">{number(f.known?.airmass, 3)}</td>
              <td>
                <label className="flex min-h-8 items-center gap-1 pointer-coarse:min-h-10">
                  <input
                    type="checkbox"
                    aria-label={`${f.name} counts`}
                    checked={!f.left_out}
                    onChange={(e) => one(f.id, { left_out: !e.target.checked, by_hand: true })}
                  />
                  {f.left_out ? "no" : "yes"}
                </label>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
