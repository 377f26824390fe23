import type { ToBuyAnswer } from "@/api/client";
import { fixed } from "@/parts/format";
import { Words } from "@/parts/Words";

/** Filters that are not owned, those that bring most in a year first, with their price and the reason. */
export function NextFilters({ answer }: { answer: ToBuyAnswer }) {
  const { next, set, places } = answer;
  const [first] = next;
  return (
    <section aria-label="Next filters" className="rounded-xl bg-surface px-4 py-3">
      <p className="text-[1.1rem] font-medium text-decide" data-testid="buy-first">
        {first ? (
          <Words
            text={`${first.name} next${first.price == null ? "" : `, for ${fixed(first.price, 0)}`}: ${brings(first)}.`}
          />
        ) : (
          "Nothing that is on offer saves an hour a year on this rig: more nights, or a darker place, bring more."
        )}
      </p>
      {first && (
        <p className="text-[0.95rem] text-muted first-letter:uppercase">
          <Words text={`${first.why}.`} />
        </p>
      )}
      <h2 className="mt-3 text-[0.9rem] text-muted">The smallest set that serves all of it</h2>
      <p data-testid="buy-set">
        <Words text={set.text} />
      </p>
      {next.length > 0 && (
        <div className="mt-3 overflow-x-auto" tabIndex={0} role="region" aria-label="What each filter would bring">
          <table className="w-full text-[0.93rem]" data-testid="buy-next">
            <thead className="text-left text-[0.84rem] text-muted">
              <tr>
                <th className="font-normal">Filter</th>
                <th className="text-right font-normal">Price</th>
                {places.map((p) => (
                  <th key={p} className="pl-3 text-right font-normal max-md:hidden">
                    Saved at {p}
                  </th>
                ))}
                <th className="pl-3 text-right font-normal md:hidden">Saved</th>
                <th className="pl-3 text-right font-normal max-md:hidden">Price an hour</th>
                <th className="pl-4 font-normal max-md:hidden">Why</th>
              </tr>
            </thead>
            <tbody>
              {next.slice(0, 12).map((n) => (
                <tr key={n.id} className="border-t border-edge/60 align-top">
                  <td className="py-1 pr-2">
                    {n.name}
                    <span className="block text-[0.86rem] text-muted md:hidden">
                      <Words text={n.why} />
                    </span>
                  </td>
                  <td className="num py-1 text-right">{n.price == null ? "–" : fixed(n.price, 0)}</td>
                  {n.saved_h.map((h, i) => (
                    <td key={places[i]} className="num py-1 pl-3 text-right text-decide max-md:hidden">
                      {h < 0.5 ? "–" : `${fixed(h, 0)} h`}
                    </td>
                  ))}
                  <td className="num py-1 pl-3 text-right text-decide md:hidden">
                    {n.saved_h_per_year < 0.5 ? "–" : `${fixed(n.saved_h_per_year, 0)} h`}
                  </td>
                  <td className="num py-1 pl-3 text-right max-md:hidden">
                    {n.price_per_hour == null ? "–" : n.price_per_hour.toFixed(1)}
                  </td>
                  <td className="py-1 pl-4 text-muted max-md:hidden">
                    <Words text={n.why} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

/** What a filter brings in a year, in words. */
function brings(n: ToBuyAnswer["next"][number]): string {
  const saved = n.saved_h_per_year >= 0.5 ? `it saves ${fixed(n.saved_h_per_year, 0)} h a year` : "";
  const opened =
    n.opened_h_per_year >= 0.5
      ? `gives ${fixed(n.opened_h_per_year, 0)} h a year a light that nothing of yours records`
      : "";
  return saved && opened ? `${saved}, and ${opened}` : saved || `it ${opened}`;
}
