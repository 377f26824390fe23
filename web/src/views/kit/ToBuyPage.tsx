import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link } from "react-router";
import { answerOf, api, type TargetKind, type ToBuyQuestion } from "@/api/client";
import { kitQuery, libraryQuery, shelfQuery } from "@/api/queries";
import { useLive } from "@/api/useLive";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { NextFilters } from "./NextFilters";
import { PictureTimes } from "./PictureTimes";

/** Which one filter next, for a rig, its places and what is shot with it; and the smallest set that serves all of it. */
export function ToBuyPage() {
  const [params, set] = useParamsEdit();
  const kit = useQuery(kitQuery);
  const shelf = useQuery(shelfQuery(false));
  const library = useQuery(libraryQuery);
  useTitle("What to buy next");
  const question = useMemo(() => readQuestion(params), [params]);
  const { answer, problem, againInS } = useLive(question, (body, signal) =>
    answerOf(api.POST("/api/v1/kit/to-buy", { body, signal })),
  );
  const sites = shelf.data?.filter((s) => s.entry.thing.kind === "site") ?? [];
  const kinds = [...new Map(library.data?.targets.map((t) => [t.kind, t.label])).entries()];
  // What was chosen stands at once; what was left open is as the answer filled it in.
  const full = asked(answer, question);
  const chosen = new Set<string>(full.kinds);
  const answered = (site: string) => answer?.nights_per_year[answer.sites.indexOf(site)];
  const at = new Map(full.places.map((p) => [p.site, p.nights_per_year ?? answered(p.site) ?? 0]));
  const put = (how: (q: ToBuyQuestion) => void) => set((p) => writeQuestion(p, asked(answer, question), how));
  return (
    <div className="flex max-w-[84rem] flex-col gap-3 px-5 py-3">
      <div className="text-[0.95rem]">
        <Link to="/kit" className="text-muted hover:text-ink">
          Kit
        </Link>{" "}
        / <h1 className="inline text-[1.15rem] font-medium">What to buy next</h1>
      </div>
      <section
        aria-label="For what"
        className="grid grid-cols-[16rem_minmax(0,1fr)_minmax(0,1fr)] gap-x-6 gap-y-3 rounded-xl bg-surface px-4 py-3 max-lg:grid-cols-1"
      >
        <div className="flex flex-col gap-2">
          <Select
            label="Rig"
            value={answer?.rig ?? question.rig ?? ""}
            options={(kit.data ?? []).map((r) => ({ value: r.id, label: r.name }))}
            onChange={(rig) => put((q) => void (q.rig = rig))}
            testId="buy-rig"
          />
          <NumberField
            label="Exposure a night"
            unit="h"
            value={question.hours_per_night ?? 5}
            min={0.1}
            max={24}
            onChange={(h) => put((q) => void (q.hours_per_night = h))}
          />
        </div>
        <fieldset>
          <legend className="text-[0.85rem] text-muted">Where, and clear nights a year</legend>
          <ul className="mt-0.5 grid grid-cols-1 gap-1">
            {sites.map((s) => (
              <li key={s.id} className="flex min-h-8 items-center gap-3">
                <label className="flex min-w-0 grow items-center gap-2">
                  <input
                    type="checkbox"
                    checked={at.has(s.id)}
                    disabled={at.has(s.id) && at.size === 1}
                    onChange={(e) =>
                      put((q) => {
                        q.places = (q.places ?? []).filter((p) => p.site !== s.id);
                        if (e.target.checked) q.places.push({ site: s.id });
                      })
                    }
                  />
                  <span className="truncate">{s.entry.name}</span>
                </label>
                {at.has(s.id) && (
                  <div className="w-28">
                    <NumberField
                      hideLabel
                      label={`Clear nights a year at ${s.entry.name}`}
                      unit="nights"
                      value={at.get(s.id) ?? null}
                      min={1}
                      max={366}
                      onChange={(n) =>
                        put((q) => {
                          const place = q.places?.find((p) => p.site === s.id);
                          if (place) place.nights_per_year = n;
                        })
                      }
                      testId={`nights-${s.id}`}
                    />
                  </div>
                )}
              </li>
            ))}
          </ul>
        </fieldset>
        <fieldset>
          <legend className="text-[0.85rem] text-muted">What I shoot, each as often</legend>
          <ul className="mt-0.5 grid grid-cols-2 gap-x-4 max-sm:grid-cols-1">
            {kinds.map(([kind, label]) => (
              <li key={kind}>
                <label className="flex min-h-8 items-center gap-2">
                  <input
                    type="checkbox"
                    checked={chosen.has(kind)}
                    disabled={chosen.has(kind) && chosen.size === 1}
                    onChange={(e) =>
                      put((q) => {
                        q.kinds = (q.kinds ?? []).filter((k) => k !== kind);
                        if (e.target.checked) q.kinds.push(kind);
                      })
                    }
                  />
                  {label}
                </label>
              </li>
            ))}
          </ul>
        </fieldset>
      </section>
      {problem && (
        <div role="alert" className="rounded-lg border border-danger/60 bg-surface px-4 py-2">
          {(problem.problem.errors ?? []).map((e) => (
            <p key={e.path}>{e.message.replace(/^./, (c) => c.toUpperCase())}.</p>
          ))}
          {problem.problem.errors?.length === 0 && <p>{problem.problem.detail}</p>}
          {againInS !== null && <p className="text-muted">It is asked again in {againInS} s.</p>}
          <Link to="/kit" className="text-salt underline underline-offset-4">
            Go to the kit
          </Link>
        </div>
      )}
      {answer && (
        <>
          <NextFilters answer={answer} />
          <PictureTimes answer={answer} />
        </>
      )}
    </div>
  );
}

type Answer = { rig: string; sites: string[]; nights_per_year: number[]; kinds: TargetKind[] };

/** The question as it was answered: what was left open is filled in, so that a change changes that alone. */
const asked = (answer: Answer | undefined, q: ToBuyQuestion): ToBuyQuestion => ({
  ...q,
  rig: q.rig ?? answer?.rig,
  kinds: q.kinds?.length ? [...q.kinds] : [...(answer?.kinds ?? [])],
  places: q.places.length
    ? q.places.map((p) => ({ ...p }))
    : (answer?.sites ?? []).map((site, i) => ({ site, nights_per_year: answer?.nights_per_year[i] })),
});

function readQuestion(params: URLSearchParams): ToBuyQuestion {
  const list = (key: string) => (params.get(key) ?? "").split(",").filter(Boolean);
  const hours = Number(params.get("hours"));
  return {
    rig: params.get("rig"),
    kinds: list("kinds") as TargetKind[],
    places: list("places").map((text) => {
      const [, site = text, nights] = /^([^.]+)\.(.+)$/.exec(text) ?? [];
      return { site, nights_per_year: nights ? Number(nights) : null };
    }),
    hours_per_night: hours > 0 ? hours : null,
  };
}

function writeQuestion(params: URLSearchParams, question: ToBuyQuestion, how: (q: ToBuyQuestion) => void) {
  how(question);
  const put = (key: string, value: string | null | undefined) => (value ? params.set(key, value) : params.delete(key));
  put("rig", question.rig);
  put("kinds", question.kinds?.join(","));
  put("places", question.places?.map((p) => (p.nights_per_year ? `${p.site}.${p.nights_per_year}` : p.site)).join(","));
  put("hours", question.hours_per_night ? String(question.hours_per_night) : null);
}
