import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { answerOf, api, type PlacesAnswer, type Scenario } from "@/api/client";
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
      <div className="mt-1 grid grid-cols-2 gap-x-6 gap-y-3 max-sm:grid-cols-1" data-testid="places">
        {places.map((p, at) => (
          <div key={at} className="min-w-0">
            <div className="flex items-end gap-2">
              <div className="min-w-0 grow">
                <Select
                  label="Place"
                  value={p.site}
                  options={sites.map((s) => ({ value: s.id, label: s.entry.name }))}
                  onChange={(site) => put(at, { site, nights_per_year: null })}
                  testId={`place-${at}`}
                />
              </div>
              <div className="w-32 shrink-0">
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
            <ul className="mt-1">
              {scenario.contenders.map((c, i) => (
                <li
                  key={contenderMark(i).letter}
                  className="flex flex-wrap justify-between gap-x-3 border-t border-edge/60 py-0.5 text-[0.93rem]"
                >
                  <span className="min-w-0 truncate">
                    <b style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</b> {c.name}
                  </span>
                  <span className="num">{told(answer?.places[at]?.paths[i])}</span>
                </li>
              ))}
            </ul>
          </div>
        ))}
      </div>
    </section>
  );
}

type There = PlacesAnswer["places"][number]["paths"][number];

/** How long all of it takes at a place, and how many such pictures a year holds. */
function told(there: There | undefined): string {
  if (!there) return "…";
  if (there.time_s == null) return "never";
  return `${clock(there.time_s)} · ${Number((there.pictures_per_year ?? 0).toPrecision(2))} a year`;
}
