import type { FrameInLog } from "@/api/log";
import { MEASURES, utc } from "./measures";

type Props = { frames: readonly FrameInLog[]; chosen: string | null; choose: (id: string) => void };

/** The frames of the sky as a table: the file's name opens one. */
export function FrameTable({ frames, chosen, choose }: Props) {
  return (
    <section aria-label="Frames" className="rounded-xl bg-surface px-4 py-3">
      <h2 className="mb-1 text-[1.02rem] font-medium">Frames</h2>
      <div className="max-h-96 overflow-y-auto">
        <table className="w-full text-[0.85rem]" data-testid="frame-table">
          <thead className="sticky top-0 bg-surface text-left text-muted">
            <tr>
              <th className="pr-2 font-normal">UTC</th>
              <th className="pr-2 font-normal">File</th>
              <th className="pr-2 font-normal max-sm:hidden">Filter</th>
              {MEASURES.map((m) => (
                <th key={m.key} className="pr-2 text-right font-normal max-md:hidden" title={m.unit}>
                  {m.label}
                </th>
              ))}
              <th className="font-normal">Kept</th>
            </tr>
          </thead>
          <tbody>
            {frames.map((f) => (
              <tr key={f.id} className={f.id === chosen ? "bg-raised" : ""}>
                <td className="num pr-2">{utc(f.start_s)}</td>
                <td className="max-w-52 pr-2">
                  <button
                    type="button"
                    onClick={() => choose(f.id)}
                    aria-current={f.id === chosen}
                    className="block min-h-7 w-full truncate text-left hover:text-salt pointer-coarse:min-h-10"
                  >
                    {f.file}
                  </button>
                </td>
                <td className="max-w-28 truncate pr-2 max-sm:hidden">{f.filter ?? "none"}</td>
                {MEASURES.map((m) => {
                  const v = m.of(f);
                  return (
                    <td key={m.key} className="num pr-2 text-right max-md:hidden">
                      {v == null ? "" : m.written(v)}
                    </td>
                  );
                })}
                <td className={f.kept ? "" : "text-danger"}>
                  {f.kept ? "yes" : "no"}
                  {f.decision ? ", by you" : ""}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
