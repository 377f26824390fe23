import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { answerOf, api, type Scenario } from "@/api/client";
import { shelfQuery } from "@/api/queries";
import { useLive } from "@/api/useLive";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { clock } from "@/parts/format";
import { range } from "@/parts/range";
import { contenderMark } from "@/theme/marks";

type Place = { site: string; nights_per_year: number | null };

/** The same comparison at two places, each with the nights that one gets there. */
export function Places({ scenario }: { scenario: Scenario }) {
  const shelf = useQuery(shelfQuery(false));
  const sites = useMemo(() => (shelf.data ?? []).filter((s) => s.entry.thing.kind === "site"), [shelf.data]);
  const [chosen, setChosen] = useState<Place[]>([]);
  // One's own come first: the first two, until others are chosen.
  const places = useMemo(() => {
    const start = sites.slice(0, 2).map((s) => ({ site: s.id, nights_per_year: null }));
    return chosen.length > 0 ? chosen : start;
  }, [chosen, sites]);
  const question = useMemo(() => (places.length > 1 ? { scenario, places } : null), [scenario, places]);
  const { answer } = useLive(question, async (body, signal) =>
    body ? answerOf(api.POST("/api/v1/decisions/places", { body, signal })) : undefined,
  );
  if (places.length < 2) return null;
  const put = (at: number, some: Partial<Place>) => setChosen(places.map((p, i) => (i === at ? { ...p, ...some } : p)));
  return (
    <section aria-label="Two places" className="mt-3 border-t border-edge pt-2">
      <h3 className="text-[0.9rem] text-muted">
        Two places: until {answer?.label ?? "everything"} is at its goal, and such pictures a year
      </h3>
      <table className="mt-1 w-full text-[0.93rem]" data-testid="places">
        <thead>
          <tr className="text-left align-bottom">
            <th className="pr-4 pb-1 font-normal">
              <span className="sr-only">Path</span>
            </th>
            {places.map((p, at) => (
              <th key={at} className="pr-4 pb-1 font-normal" scope="col">
                <div className="flex max-w-96 items-end gap-2">
                  <div className="min-w-0 grow">
                    <Select
                      label="Place"
                      value={p.site}
                      options={sites.map((s) => ({ value: s.id, label: s.entry.name }))}
                      onChange={(site) => put(at, { site, nights_per_year: null })}
                      testId={`place-${at}`}
                    />
                  </div>
                  <div className="w-28">
                    <NumberField
                      label="Clear nights"
                      unit="a year"
                      value={p.nights_per_year ?? answer?.places[at]?.nights_per_year ?? null}
                      {...range("Choices", "clear_nights_per_year")}
                      onChange={(n) => put(at, { nights_per_year: n })}
                      testId={`place-nights-${at}`}
                    />
                  </div>
                </div>
              </th>
            ))}
          </tr>
        </thead>
        <tbody className="num">
          {scenario.contenders.map((c, i) => (
            <tr key={contenderMark(i).letter} className="border-t border-edge/60">
              <th scope="row" className="py-0.5 pr-4 text-left font-sans font-normal">
                <b style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</b> {c.name}
              </th>
              {places.map((_, at) => {
                const there = answer?.places[at]?.paths[i];
                return (
                  <td key={at} className="py-0.5 pr-4">
                    {!there
                      ? "…"
                      : there.time_s == null
                        ? "never"
                        : `${clock(there.time_s)} · ${Number((there.pictures_per_year ?? 0).toPrecision(2))} a year`}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
