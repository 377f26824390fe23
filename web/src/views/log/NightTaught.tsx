import { useQuery } from "@tanstack/react-query";
import { Check, Undo2 } from "lucide-react";
import {
  type CampaignTaught,
  nightTaughtQuery,
  type OfferOfNight,
  type StoredLesson,
  useTakeLesson,
  useUndoLesson,
} from "@/api/log";
import { Button } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { lessonName, offerWords } from "./lessons";
import { PredictedCharts } from "./PredictedCharts";

type OfferProps = { of: OfferOfNight; take: () => void; busy: boolean };

/** One figure that the night would change, why, and what that would mean. */
function Offer({ of, take, busy }: OfferProps) {
  const name = lessonName(of.offer);
  return (
    <li className="rounded-lg bg-raised px-3 py-2" data-testid={`offer-${of.offer.lesson}`}>
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <b className="font-semibold">{name}</b>
        <span className="num">{offerWords(of.offer)}</span>
        <span className="text-[0.88rem] text-muted">{of.subjects.join(", ")}</span>
        <Button look="lit" className="ml-auto" onClick={take} disabled={busy} aria-label={`Take over: ${name}`}>
          <Check size={15} aria-hidden /> Take over
        </Button>
      </div>
      <p className="mt-0.5 text-muted">{of.offer.evidence}</p>
      {of.means.length > 0 && <p className="mt-0.5">{of.means.join(" ")}</p>}
    </li>
  );
}

type TakenProps = { of: StoredLesson; back: () => void };

/** What was taken over from this night, and the way back. */
function Taken({ of, back }: TakenProps) {
  const undone = of.undone_at != null;
  return (
    <li className="flex flex-wrap items-baseline gap-x-3" data-testid={`lesson-${of.lesson.offer.lesson}`}>
      <span className={undone ? "text-muted line-through" : undefined}>
        {lessonName(of.lesson.offer)}: <span className="num">{offerWords(of.lesson.offer)}</span>
      </span>
      <span className="text-[0.85rem] text-muted">
        {undone ? `taken back ${day(of.undone_at ?? "")}` : `taken over ${day(of.taken_at)}`}
      </span>
      {!undone && (
        <Button look="quiet" onClick={back} aria-label={`Take back: ${lessonName(of.lesson.offer)}`}>
          <Undo2 size={14} aria-hidden /> Take back
        </Button>
      )}
    </li>
  );
}

const day = (at: string) => at.slice(0, 10);

/** How a night came out beside what was predicted, and what it would change of site, kit and campaign. */
export function NightTaught({ night }: { night: string }) {
  const taught = useQuery(nightTaughtQuery(night));
  const [take, undo, offerUndo] = [useTakeLesson(night), useUndoLesson(), useOfferUndo()];
  if (!taught.data) return null;
  const { learned, lessons } = taught.data;
  const takeOver = (of: string, o: OfferOfNight) =>
    take({ of, lesson: o.offer.lesson })
      .then((l) => offerUndo(`${lessonName(o.offer)}: ${offerWords(o.offer)}`, () => undo(l.id)))
      .catch(fail);
  if (learned.length === 0 && lessons.length === 0) return null;
  return (
    <section aria-label="What the night teaches" className="rounded-xl bg-surface px-4 py-3" data-testid="night-taught">
      <h2 className="text-[1.02rem] font-medium">What the night teaches</h2>
      {learned.map((of) => (
        <Learned key={of.of} of={of} take={(o) => void takeOver(of.of, o)} busy={taught.isFetching} />
      ))}
      {lessons.length > 0 && (
        <ul className="mt-2 flex flex-col gap-1">
          {lessons.map((l) => (
            <Taken key={l.id} of={l} back={() => void undo(l.id).catch(fail)} />
          ))}
        </ul>
      )}
    </section>
  );
}

type LearnedProps = { of: CampaignTaught; take: (o: OfferOfNight) => void; busy: boolean };

function Learned({ of, take, busy }: LearnedProps) {
  return (
    <div className="mt-1">
      <p className="text-muted">
        Against {of.title}, under the sky of {of.site} as it is known now
      </p>
      {of.told.map((t) => (
        <p key={t} className="mt-0.5">
          {t}
        </p>
      ))}
      {of.offers.length > 0 && (
        <ul className="mt-1.5 flex flex-col gap-1.5">
          {of.offers.map((o) => (
            <Offer key={o.offer.lesson} of={o} take={() => take(o)} busy={busy} />
          ))}
        </ul>
      )}
      <PredictedCharts of={of} />
    </div>
  );
}
