import type { ToBuyAnswer } from "@/api/client";
import { clock } from "@/parts/format";

/** How long a picture of each kind takes at each place, with what is owned and with the best there is. */
export function PictureTimes({ answer: { pictures, places } }: { answer: ToBuyAnswer }) {
  const kinds = [...new Set(pictures.map((p) => p.kind))];
  return (
    <section aria-label="How long pictures take" className="rounded-xl bg-surface px-4 py-3">
      <h2 className="text-[1.02rem] font-medium">A picture of moderate brightness, until every goal is met</h2>
      <div className="mt-1 overflow-x-auto" tabIndex={0} role="region" aria-label="Times by kind and place">
        <table className="w-full text-[0.93rem]" data-testid="buy-pictures">
          <thead className="text-left text-[0.84rem] text-muted">
            <tr>
              <th className="font-normal">Kind</th>
              {places.map((p) => (
                <th key={p} className="pl-4 text-right font-normal">
                  {p}: with mine
                </th>
              ))}
              {places.map((p) => (
                <th key={p} className="pl-4 text-right font-normal max-md:hidden">
                  {p}: with all there is
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {kinds.map((kind) => {
              const row = places.map((p) => pictures.find((x) => x.kind === kind && x.place === p));
              return (
                <tr key={kind} className="border-t border-edge/60 align-top">
                  <td className="py-1">{kind}</td>
                  {row.map((x, i) => (
                    <td key={places[i]} className="num py-1 pl-4 text-right text-decide">
                      {x?.now_s == null ? "not at all" : clock(x.now_s)}
                      {x && x.missing.length > 0 && (
                        <span className="block font-sans text-[0.84rem] text-muted">
                          without {x.missing.join(", ")}
                        </span>
                      )}
                    </td>
                  ))}
                  {row.map((x, i) => (
                    <td key={places[i]} className="num py-1 pl-4 text-right max-md:hidden">
                      {x?.best_s == null ? "not at all" : clock(x.best_s)}
                    </td>
                  ))}
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </section>
  );
}
