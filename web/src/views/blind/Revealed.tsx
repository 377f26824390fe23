import { useQuery } from "@tanstack/react-query";
import type { BlindAnswer } from "@/api/client";
import { blindListQuery } from "@/api/queries";
import { fixed, snr } from "@/parts/format";
import { contenderMark } from "@/theme/marks";

/** Which path was which, and how figures and eye ordered them. */
export function RevealedTable({ revealed }: { revealed: BlindAnswer }) {
  const rounds = revealed.result.eye_places ?? [];
  // A ratio to the first is near one, a signal to noise anything.
  const figure = revealed.figure === "SNR" ? snr : (v: number) => fixed(v, 3);
  return (
    <table className="max-w-2xl text-[0.95rem]" data-testid="revealed" aria-label="What was revealed">
      <thead className="text-left text-muted">
        <tr>
          <th className="font-normal">{revealed.figure === "SNR" ? "Path" : "Kind"}</th>
          <th className="text-right font-normal">{revealed.figure}</th>
          <th className="text-right font-normal">By figures</th>
          {rounds.map((_, r) => (
            <th key={r} className="text-right font-normal">
              {r === 0 ? "By eye, round 1" : `Round ${r + 1}`}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {revealed.names.map((name, i) => (
          <tr key={contenderMark(i).letter} className="border-t border-edge/60">
            <td className="py-0.5">
              <b style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</b> {name}
            </td>
            <td className="num text-right">{figure(revealed.result.snr[i] ?? 0)}</td>
            <td className="num text-right">{revealed.result.by_figures.indexOf(i) + 1}.</td>
            {rounds.map((places, r) => (
              <td key={r} className="num text-right">
                {placeShown(places, i)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** A place of an order in which some are tied: "1.", "= 2."; ties share the better place. */
function placeShown(places: readonly number[], i: number) {
  const own = places[i] ?? 0;
  const before = places.filter((p) => p < own).length;
  return `${places.filter((p) => p === own).length > 1 ? "= " : ""}${before + 1}.`;
}

/** How the eye did before; the look that was just revealed (`after`) stands first in the list and is left out. */
export function EarlierLooks({ after }: { after: string }) {
  const { data } = useQuery(blindListQuery(after));
  if (!data || data.length < 2) return null;
  return (
    <section aria-label="Earlier blind looks">
      <h2 className="mb-1 text-[1.02rem] font-medium">Earlier blind looks</h2>
      <ul className="text-[0.93rem] text-muted">
        {data.slice(1, 8).map((k) => (
          <li key={k.id}>
            <span className="num">{k.revealed_at.slice(0, 10)}</span> {k.title}: the eye agreed on {k.result.agreed} of{" "}
            {k.result.pairs} pairs{k.result.by_chance ? `, by chance ${k.result.by_chance}` : ""}
          </li>
        ))}
      </ul>
    </section>
  );
}
