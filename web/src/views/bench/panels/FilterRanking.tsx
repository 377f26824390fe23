import { useMemo } from "react";
import { answerOf, api, type Library, type Quantity, type RankedFilter, type Scenario } from "@/api/client";
import { useLive } from "@/api/useLive";
import { useQuantityName } from "@/parts/quantityName";
import { Words } from "@/parts/Words";
import { FilterRow } from "./FilterRow";

type Props = {
  scenario: Scenario;
  contender: number;
  quantity: Quantity;
  letter: string;
  library: Library;
  /** The goal for it, as what is reached. */
  phrase: string;
  use: (id: string | null) => void;
};

/** Which filter for this target here: by the time each needs, one's own first, then what could be bought. */
export function FilterRanking({ scenario, contender, quantity, letter, library, phrase, use }: Props) {
  const nameOf = useQuantityName();
  const question = useMemo(() => ({ scenario, contender, quantity }), [scenario, contender, quantity]);
  const { answer } = useLive(question, (q, signal) =>
    answerOf(
      api.POST("/api/v1/charts/filters", {
        params: { query: { contender: q.contender, quantity: q.quantity } },
        body: q.scenario,
        signal,
      }),
    ),
  );
  const label = nameOf(quantity);
  const used = new Set(scenario.contenders[contender]?.exposures.map((e) => e.filter?.name ?? "No filter"));
  const useful = answer?.filter((f) => f.time_to_goal_s != null) ?? [];
  const blocked = (answer?.length ?? 0) - useful.length;
  const fastest = useful[0]?.time_to_goal_s ?? 1;
  const ofShelf = (f: RankedFilter) => library.filters.find((g) => g.id === f.id);
  const mine = (f: RankedFilter) => f.id == null || (ofShelf(f)?.mine ?? false);
  // What is in use stays in sight, whether it suits or not.
  const fits = (f: RankedFilter) => f.suits || f.id == null || used.has(f.name);
  const others = useful.filter((f) => !fits(f));
  // What would have to be bought has a price; what is there already costs nothing more.
  const priceOf = (f: RankedFilter) => (mine(f) ? null : (ofShelf(f)?.filter.price ?? null));
  const groups = (
    [
      ["Mine, and none", useful.filter((f) => mine(f) && fits(f))],
      ["To buy", useful.filter((f) => !mine(f) && fits(f))],
    ] as const
  ).filter(([, list]) => list.length > 0);
  const row = (f: RankedFilter) => (
    <FilterRow
      key={f.id ?? "none"}
      filter={f}
      place={useful.indexOf(f) + 1}
      price={priceOf(f)}
      {...{ fastest, letter, quantity }}
      inUse={used.has(f.name)}
      use={() => use(f.id ?? null)}
    />
  );
  return (
    <section aria-label="Filters ranked" className="flex flex-col rounded-xl bg-surface px-4 pt-2 pb-2">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h2 className="text-[1.02rem] font-medium">
          <Words text={`Filters for ${label} on rig ${letter}`} />
        </h2>
        <p className="text-[0.88rem] text-muted">
          Time to {phrase}, each alone at its own best sub
          {blocked > 0 ? `; ${blocked} more block the line` : ""}
        </p>
      </div>
      <div
        className="mt-1 max-h-[300px] overflow-y-auto pr-1"
        tabIndex={0}
        role="region"
        aria-label="The ranking"
        data-testid="ranking"
      >
        {groups.map(([name, list]) => (
          <div key={name}>
            <h3 className="pt-1 text-[0.85rem] text-muted">{name}</h3>
            <ol aria-label={`${name}, fastest first`}>{list.map(row)}</ol>
          </div>
        ))}
        {others.length > 0 && (
          <details className="pt-1">
            <summary className="cursor-pointer text-[0.85rem] text-muted">
              {others.length} made for something else
            </summary>
            <ol aria-label="Made for something else, fastest first">{others.map(row)}</ol>
          </details>
        )}
      </div>
    </section>
  );
}
