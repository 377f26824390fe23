import type { components } from "@/api/schema";
import { fixed } from "@/parts/format";

type Props = { answer: components["schemas"]["BesideAnswer"] };

/** What the middle of the piece holds on both frames, in electrons. */
export function BesideFigures({ answer }: Props) {
  const e = (v: number | null | undefined, digits = 1) => (v == null ? "not known" : `${fixed(v, digits)} e-`);
  const cell = "num pr-4 text-right";
  return (
    <table className="mt-2 text-[0.9rem]" data-testid="beside-figures">
      <caption className="sr-only">The middle fifth of the piece, on both frames</caption>
      <thead className="text-left text-muted">
        <tr>
          <th className="pr-4 font-normal">Frame</th>
          <th className="pr-4 text-right font-normal">Sky a pixel</th>
          <th className="pr-4 text-right font-normal">Its own noise</th>
          <th className="pr-4 text-right font-normal">Over it in the middle</th>
          <th className="text-right font-normal">One pixel scatters</th>
        </tr>
      </thead>
      <tbody>
        {answer.frames.flatMap((f) => [
          <tr key={f.id}>
            <td className="max-w-72 truncate pr-4">{`${f.filter ?? "no filter"}, ${f.file}`}</td>
            <td className={cell}>{e(f.background_e)}</td>
            <td className={cell}>{e(f.background_noise_e, 2)}</td>
            <td className={cell}>
              {f.boxes
                .map((b) => (f.boxes.length > 1 ? `${b.channel} ${e(b.over_e, 2)}` : e(b.over_e, 2)))
                .join(", ") || "not known"}
            </td>
            <td className="num text-right">{f.boxes.map((b) => e(b.scatter_e, 2)).join(", ") || "not known"}</td>
          </tr>,
          f.predicted && (
            <tr key={`${f.id} predicted`} className="text-muted">
              <td className="pr-4 pl-4">as the model has it, under the object's mean light</td>
              <td className={cell}>{e(f.predicted.background_e)}</td>
              <td />
              <td className={cell}>{e(f.predicted.over_e, 2)}</td>
              <td className="num text-right">{e(f.predicted.scatter_e, 2)}</td>
            </tr>
          ),
        ])}
      </tbody>
    </table>
  );
}
