import type { MeasuredBox } from "@/api/client";
import { snr } from "@/parts/format";
import { useQuantityName } from "@/parts/quantityName";
import { Words } from "@/parts/Words";
import { contenderMark } from "@/theme/marks";

/** What the box holds in every plane of every path. */
export function MeasuredTable({ measured }: { measured: MeasuredBox[] }) {
  const nameOf = useQuantityName();
  return (
    <>
      <table className="mt-2 w-full text-[0.9rem]" aria-label="Measured in the box" data-testid="measured">
        <thead className="text-left text-[0.82rem] text-muted">
          <tr>
            <th className="font-normal">Path</th>
            <th className="font-normal">Plane</th>
            <th className="font-normal">Mostly</th>
            <th className="text-right font-normal">One sub, e-</th>
            <th className="text-right font-normal">Its level, ADU</th>
            <th className="text-right font-normal">Stack, e-</th>
            <th className="text-right font-normal">Sigma, e-</th>
            <th className="text-right font-normal">Target, e-</th>
            <th className="text-right font-normal">SNR of the box</th>
          </tr>
        </thead>
        <tbody className="num">
          {measured.flatMap(({ planes }, i) =>
            planes.map((m) => (
              <tr key={`${i}${m.plane}`} className="border-t border-edge/60">
                <td style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</td>
                <td className="font-sans">{m.plane}</td>
                <td className="font-sans">{m.quantity ? <Words text={nameOf(m.quantity)} /> : "–"}</td>
                <td className="text-right">{m.sub_e.toFixed(1)}</td>
                <td className="text-right">{m.sub_adu.toFixed(0)}</td>
                <td className="text-right">{m.mean_e.toFixed(1)}</td>
                <td className="text-right">{m.sigma_e.toFixed(1)}</td>
                <td className="text-right">{m.target_e.toFixed(1)}</td>
                <td className="text-right text-decide">{snr(m.snr)}</td>
              </tr>
            )),
          )}
        </tbody>
      </table>
      <ul className="mt-1 text-[0.86rem] text-muted" aria-label="Planes against each other">
        {measured.map(
          ({ text }, i) =>
            text && (
              <li key={contenderMark(i).letter}>
                <b style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</b> {text}
              </li>
            ),
        )}
      </ul>
    </>
  );
}
