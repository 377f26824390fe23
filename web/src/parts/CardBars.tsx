import type { Card } from "@/api/client";
import { arcsec, snr } from "@/parts/format";
import { contenderMark } from "@/theme/marks";

/** What each path of a comparison reaches, as bars side by side; the paths' letters as on the bench. */
export function CardBars({ card }: { card: Card }) {
  const most = Math.max(...card.paths.map((p) => p.snr ?? 0), 1e-9);
  return (
    <ul className="mt-1.5 flex flex-wrap gap-x-3 gap-y-1" aria-label="How clean each path is">
      {card.paths.map((p, i) => {
        const { letter, colour } = contenderMark(i);
        return (
          <li key={letter} className="flex items-center gap-1.5 text-[0.85rem]" title={p.name}>
            <span className={i === card.winner ? "font-semibold" : "text-muted"}>{letter}</span>
            <span className="h-2 w-14 overflow-hidden rounded-full bg-well" aria-hidden>
              <span
                className="block h-full rounded-full"
                style={{ width: `${((p.snr ?? 0) / most) * 100}%`, background: colour }}
              />
            </span>
            <span className="num text-muted">
              {p.clean_arcsec != null ? arcsec(p.clean_arcsec) : p.snr == null ? "none" : `SNR ${snr(p.snr)}`}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
