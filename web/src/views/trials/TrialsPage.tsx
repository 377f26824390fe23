import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { type StoredTrial, type Trial, trialsQuery, useRemoveTrial, useRestoreTrial, useSaveTrial } from "@/api/trials";
import { ChoiceList } from "@/parts/ChoiceList";
import { fail } from "@/parts/fail";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { BeginTrial } from "./BeginTrial";
import { TrialDetail } from "./TrialDetail";

/** Trials: two filters, gains, subs or rigs compared so that cloud, hour and focus serve both alike. */
export function TrialsPage() {
  const [params, edit] = useParamsEdit();
  const trials = useQuery(trialsQuery);
  const [save, removeOne, restore] = [useSaveTrial(), useRemoveTrial(), useRestoreTrial()];
  const list = trials.data ?? [];
  const wanted = params.get("id");
  // One that was just begun may still be on its way into the list: nothing else is shown in its place.
  const other = wanted && trials.isFetching ? undefined : list[0];
  const chosen = list.find((t) => t.id === wanted) ?? other;
  useTitle(chosen?.trial.title ?? "Trials");
  const offerUndo = useOfferUndo();
  const saving = useRef<Promise<unknown>>(Promise.resolve());
  const change = (id: string, how: (t: Trial) => Trial) => {
    saving.current = saving.current.then(() => save({ id, how }).catch(fail));
    return saving.current;
  };
  const remove = (t: StoredTrial) => offerUndo(`${t.trial.title} deleted`, () => restore(t.id), removeOne(t.id));
  return (
    <div className="grid grid-cols-[16rem_minmax(0,1fr)] gap-4 px-5 py-3 max-lg:grid-cols-[minmax(0,1fr)] print:block">
      <div className="max-lg:order-last print:hidden">
        <h1 className="mb-2 text-[1.3rem]">Trials</h1>
        <ChoiceList
          items={list.map(({ id, trial: t }) => ({
            id,
            title: t.title,
            note: `${t.scenario.target.name} · ${framesOf(t)}`,
          }))}
          chosen={chosen?.id}
          choose={(id) => edit((p) => p.set("id", id))}
        />
        {trials.data && list.length === 0 && (
          <p className="mb-2 text-muted">
            Two filters on one night, looked at side by side, are believed and are often wrong: a thin cloud, the hour
            and the focus decide. A trial takes them in turns and says what the frames really hold.
          </p>
        )}
        <BeginTrial done={(id) => edit((p) => p.set("id", id))} />
      </div>
      {chosen && (
        <TrialDetail key={chosen.id} stored={chosen} change={(how) => change(chosen.id, how)} remove={remove} />
      )}
    </div>
  );
}

const framesOf = (t: Trial) => {
  const all = t.frames ?? [];
  const n = all.filter((f) => f.kind != null && f.measure != null && !f.left_out).length;
  if (all.length === 0) return "not taken yet";
  return n === all.length ? `${n} frames` : `${n} of ${all.length} frames`;
};
