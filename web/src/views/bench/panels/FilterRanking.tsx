import { useMemo } from "react";
import { answerOf, api, type Quantity, type Scenario } from "@/api/client";
import { useLive } from "@/api/useLive";
import { Button } from "@/parts/controls/Button";
import { clock, ends } from "@/parts/format";
import { useQuantityName } from "@/parts/quantityName";
import { Words } from "@/parts/Words";
import { hue } from "@/theme/marks";

type Props = {
  scenario: Scenario;
  contender: number;
  quantity: Quantity;
  letter: string;
  use: (id: string | null) => void;
};

const hours = (s: number) => (s >= 7200 ? `${Number((s / 3600).toPrecision(2))} h` : `${Math.round(s / 60)} min`);

/** Which filter for this target here: the shelf by the time each filter needs. */
export function FilterRanking({ scenario, contender, quantity, letter, use }: Props) {
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
  const useful = answer?.filter((f) => f.time_to_goal_s != null) ?? [];
  const blocked = (answer?.length ?? 0) - useful.length;
  const fastest = useful[0]?.time_to_goal_s ?? 1;
  const used = new Set(scenario.contenders[contender]?.exposures.map((e) => e.filter?.name ?? "No filter"));
  return (
    <section aria-label="Filters ranked" className="flex flex-col rounded-xl bg-surface px-4 pt-2 pb-2">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h2 className="text-[1.02rem] font-medium">
          <Words text={`Filters for ${label} on rig ${letter}`} />
        </h2>
        <p className="text-[0.88rem] text-muted">
          Time to SNR {scenario.goal_snr ?? 20}, each alone at its own best sub
          {blocked > 0 ? `; ${blocked} more block the line` : ""}
        </p>
      </div>
      <ol
        className="mt-1 max-h-[188px] overflow-y-auto pr-1"
        tabIndex={0}
        aria-label="Filters, fastest first"
        data-testid="ranking"
      >
        {useful.map((f, i) => (
          <li
            key={f.id ?? "none"}
            className="grid grid-cols-[1.4rem_11.5rem_3.5rem_6.8rem_6.2rem_minmax(0,1fr)_auto] items-center gap-x-2 border-t border-edge/60 py-px text-[0.92rem] first:border-t-0 max-md:grid-cols-[1.6rem_1fr_6.5rem_auto]"
          >
            <span className="num text-muted">{i + 1}</span>
            <span className="truncate" title={f.name}>
              {f.name}
            </span>
            <span aria-hidden className="h-2 rounded-full bg-well max-md:hidden">
              <span
                className="block h-full rounded-full"
                style={{
                  width: `${Math.max(3, (fastest / (f.time_to_goal_s ?? fastest)) * 100)}%`,
                  background: hue(quantity),
                }}
              />
            </span>
            <span className={`num text-right ${i === 0 ? "font-semibold text-decide" : ""}`}>
              {clock(f.time_to_goal_s)}
            </span>
            <span className="num truncate text-right text-[0.84rem] text-muted max-md:hidden">
              {ends(f.time_range_s, hours)}
            </span>
            <span className="truncate text-[0.86rem] text-muted max-md:hidden" title={f.why}>
              {f.why}
            </span>
            <Button
              look="quiet"
              className="h-6 px-2"
              disabled={used.has(f.name)}
              aria-label={`Use ${f.name} in path ${letter}`}
              onClick={() => use(f.id ?? null)}
            >
              {used.has(f.name) ? "in use" : "use"}
            </Button>
          </li>
        ))}
      </ol>
    </section>
  );
}
