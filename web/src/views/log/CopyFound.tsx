import { Check } from "lucide-react";
import { useEffect, useRef } from "react";
import { type CopyAnswer, type CopyAsked, useTakeCopy, useUndoLesson } from "@/api/log";
import { Button } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import { fixed } from "@/parts/format";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { CopyChart } from "./CopyChart";

const percent = (share: number) => `${fixed(100 * share, 0)} %`;

/** What two exposures say of a copy, what it passes on each telescope, and the way into the kit. */
export function CopyFound({ of, asked }: { of: CopyAnswer; asked: CopyAsked }) {
  const { copy } = of;
  const [take, undo, offerUndo] = [useTakeCopy(), useUndoLesson(), useOfferUndo()];
  const takeOver = () =>
    void take
      .mutateAsync(asked)
      .then((l) => offerUndo(`${copy.filter} is kept as measured`, () => undo(l.id)))
      .catch(fail);
  const box = useRef<HTMLElement>(null);
  useEffect(() => {
    if (copy) box.current?.scrollIntoView({ block: "nearest" });
  }, [copy]);
  return (
    <section ref={box} className="rounded-lg bg-raised px-4 py-3" aria-label="What was found" data-testid="copy-found">
      <div role="status">
        {copy.told.map((t, i) => (
          <p key={t} className={i === 0 ? "text-[1.02rem] font-medium" : "mt-1 text-muted"}>
            {t}
          </p>
        ))}
      </div>
      <div className="mt-3 grid grid-cols-2 gap-4 max-md:grid-cols-1">
        <CopyChart copy={copy} />
        <table className="self-start text-left">
          <caption className="pb-1 text-left text-muted">What it passes of each line</caption>
          <thead className="text-muted">
            <tr>
              {["Focal ratio", "Line", "This copy", "As promised", "In slow light"].map((h) => (
                <th key={h} scope="col" className="pr-4 font-normal">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody className="num">
            {copy.at.flatMap((a) =>
              a.lines.map((l) => (
                <tr key={`${a.focal_ratio} ${l.quantity}`}>
                  <th scope="row" className="pr-4 font-normal">
                    {`f/${fixed(a.focal_ratio, 1)}`}
                  </th>
                  <td className="pr-4">{l.name}</td>
                  <td className="pr-4">
                    {percent(l.passes.value)} ± {fixed(100 * l.passes.sd, 0)}
                  </td>
                  <td className="pr-4">{percent(l.promised)}</td>
                  <td>{percent(l.slow)}</td>
                </tr>
              )),
            )}
          </tbody>
        </table>
      </div>
      {of.subjects.length > 0 && copy.verdict !== "unsure" && (
        <div className="mt-3 flex flex-wrap items-baseline gap-x-3 gap-y-1">
          <Button look="lit" onClick={takeOver} disabled={take.isPending || take.isSuccess}>
            <Check size={15} aria-hidden /> {take.isSuccess ? "Taken over" : "Take over as measured"}
          </Button>
          <span className="text-muted">{of.subjects.join(", ")}</span>
          {of.means.length > 0 && <span>{of.means.join(" ")}</span>}
        </div>
      )}
    </section>
  );
}
