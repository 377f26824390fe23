import type { BenchAnswer, Contender, ContenderAnswer, FieldError, Library, Quantity, Scenario } from "@/api/client";
import { clock, percent } from "@/parts/format";
import { contenderMark } from "@/theme/marks";
import { bestExposure } from "../bestExposure";
import type { Stage } from "../editors/shared";
import { PathResult } from "./PathResult";
import { PathStages } from "./PathStages";
import { Ribbon } from "./Ribbon";
import { RowMenu } from "./RowMenu";

type Props = {
  index: number;
  scenario: Scenario;
  judged: BenchAnswer["judged"];
  together: boolean;
  contender: Contender;
  answer: ContenderAnswer | undefined;
  words: BenchAnswer["rows"][number] | undefined;
  quantity: Quantity;
  selected: boolean;
  select: () => void;
  library: Library;
  change: (edit: (draft: Scenario) => void) => void;
  errors: readonly FieldError[];
  open: string | null;
  setOpen: (stage: Stage | null) => void;
  /** Puts the row out of sight; not for the baseline. */
  hide: () => void;
  beginCampaign: () => void;
};

/** One light path: light going left to right through its stages, what is left of it, and what comes out. */
export function PathRow(p: Props) {
  const { index, contender, answer, words, quantity, scenario } = p;
  const { letter, colour } = contenderMark(index);
  const at = bestExposure(answer, quantity);
  const exposure = answer?.exposures[at];
  const light = exposure?.stages[quantity];
  const sky = exposure?.sky_over_signal[quantity];
  const left = [
    1,
    light?.atmosphere ?? 0,
    light?.optics ?? 0,
    light?.filter ?? 0,
    light?.sensor ?? 0,
    light?.sensor ?? 0,
  ];
  const many = contender.exposures.length > 1;
  const raw = contender.exposures[at];
  const name: Record<Stage, string> = {
    target: scenario.target.name || "Target",
    air: `${Math.round(scenario.sky.target_altitude_deg)}° high`,
    optics: `${contender.optics.aperture_mm} mm${answer ? ` f/${answer.focal_ratio.toFixed(1)}` : ""}`,
    filter: raw?.filter?.name ?? "No filter",
    sensor: `${contender.sensor.cfa ? "Colour" : "Mono"} · gain ${contender.gain}`,
    sub: exposure ? `${exposure.subs} × ${exposure.sub_s} s` : "",
  };
  const clockS = contender.total_s ?? scenario.total_s;
  const note: Record<Stage, string> = {
    target: "all its light",
    air: sky ? `${percent(left[1] ?? 0)}, sky ${ratio(sky.before_filter)}×` : percent(left[1] ?? 0),
    optics: percent(left[2] ?? 0),
    filter:
      sky?.after_filter != null ? `${percent(left[3] ?? 0)}, sky ${ratio(sky.after_filter)}×` : percent(left[3] ?? 0),
    sensor: percent(left[4] ?? 0),
    sub: many ? `${clock(clockS * (raw?.share ?? 1))} of ${clock(clockS)}` : clock(clockS),
  };

  return (
    <article
      aria-label={`Light path ${letter}: ${contender.name}`}
      data-testid={`path-${letter}`}
      onClick={p.select}
      className={`grid grid-cols-[16.5rem_minmax(0,1fr)_17.5rem] items-stretch gap-3 rounded-xl border-l-4 py-1.5 pr-3 pl-3 max-lg:grid-cols-[11rem_minmax(0,1fr)_11rem] max-md:grid-cols-1 ${p.selected ? "bg-raised" : "bg-surface"}`}
      style={{ borderLeftColor: colour }}
    >
      <div className="flex min-w-0 flex-col justify-center">
        <div className="flex items-center gap-2">
          <button
            type="button"
            aria-pressed={p.selected}
            aria-label={`Show the verdict on path ${letter}`}
            onClick={p.select}
            className="num grid size-6 shrink-0 place-items-center rounded-full text-[0.9rem] font-semibold text-ground"
            style={{ background: colour }}
          >
            {letter}
          </button>
          <input
            aria-label={`Name of path ${letter}`}
            value={contender.name}
            maxLength={200}
            title={contender.name}
            onChange={(e) =>
              p.change((s) => {
                const c = s.contenders[index];
                if (c) c.name = e.target.value;
              })
            }
            className="min-h-[24px] min-w-0 grow truncate rounded bg-transparent font-medium hover:bg-well focus:bg-well"
          />
        </div>
        <div className="flex items-center gap-1 pl-8 text-[0.86rem] text-muted">
          <span className="truncate">{words?.rig}</span>
          <RowMenu {...p} />
        </div>
      </div>

      <div className="relative min-w-0">
        <Ribbon
          left={left}
          quantity={quantity}
          lost={!answer?.quantities[quantity]}
          before={sky?.before_filter ?? 0}
          after={sky?.after_filter ?? 0}
        />
        <PathStages {...p} {...{ answer, name, note }} />
      </div>

      <PathResult {...{ index, judged: p.judged, together: p.together, answer, words, quantity }} />
    </article>
  );
}

const ratio = (x: number) => (x >= 10 ? x.toFixed(0) : x.toFixed(1));
