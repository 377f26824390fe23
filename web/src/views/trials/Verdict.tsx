import { useQuery } from "@tanstack/react-query";
import { type StoredTrial, type TrialAnswer, verdictQuery } from "@/api/trials";
import { EffectChart } from "./EffectChart";

/** What the frames say: the words, the interval as a picture, and the reasons. */
export function Verdict({ stored }: { stored: StoredTrial }) {
  const { data, isError, error } = useQuery(verdictQuery(stored.id, stored.revision));
  if (isError) return <p className="text-danger">{error.message}</p>;
  return (
    <section aria-label="Verdict" className="rounded-xl bg-surface px-5 py-3" data-testid="trial-verdict">
      {!data && <p className="text-muted">Judging…</p>}
      {data?.waits && <p className="text-[1.05rem]">Not enough yet: {data.waits}.</p>}
      {data?.analysis &&
        data.verdicts.map((v) => <One key={v.kind} answer={data} verdict={v} matters={stored.trial.design.matters} />)}
    </section>
  );
}

type OneProps = { answer: TrialAnswer; verdict: TrialAnswer["verdicts"][number]; matters: number };

function One({ answer, verdict: v, matters }: OneProps) {
  const against = answer.analysis?.against.find((a) => a.kind === v.kind);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_24rem] gap-5 max-lg:grid-cols-[minmax(0,1fr)]">
      <div>
        <p className="text-[1.15rem] text-decide" data-testid="trial-headline">
          {v.headline}
        </p>
        <ul className="mt-2 flex list-disc flex-col gap-1 pl-5 text-[0.95rem]">
          {v.sentences.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ul>
      </div>
      {against && <EffectChart against={against} matters={matters} />}
    </div>
  );
}
