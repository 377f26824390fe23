import { ArrowDown, ArrowUp, Copy, Ellipsis, EyeOff, Gem, Trash2 } from "lucide-react";
import { DropdownMenu, Popover } from "radix-ui";
import type { ReactNode } from "react";
import type {
  BenchAnswer,
  Contender,
  ContenderAnswer,
  ExposureAnswer,
  FieldError,
  Library,
  Quantity,
  Scenario,
} from "@/api/client";
import { clock, percent, snr } from "@/parts/format";
import { Words } from "@/parts/Words";
import { hue, mark, QUANTITY_LABELS } from "@/theme/marks";
import { StageEditor } from "../editors/StageEditor";
import { STAGES, type Stage } from "../editors/shared";

type Props = {
  index: number;
  scenario: Scenario;
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

/** The exposure of a path that records the quantity best. */
function bestExposure(answer: ContenderAnswer | undefined, quantity: Quantity): number {
  const passes = (e: ExposureAnswer) => e.stages[quantity]?.filter ?? 0;
  const list = answer?.exposures ?? [];
  return list.reduce((best, e, i) => (passes(e) > passes(list[best] ?? e) ? i : best), 0);
}

/** One light path: light going left to right through its stages, what is left of it, and what comes out. */
export function PathRow(p: Props) {
  const { index, contender, answer, words, quantity, scenario } = p;
  const { letter, colour } = mark(index);
  const at = bestExposure(answer, quantity);
  const exposure = answer?.exposures[at];
  const light = exposure?.stages[quantity];
  const sky = exposure?.sky_over_signal[quantity];
  const result = answer?.quantities[quantity];
  const difference = words?.differences.find(
    (d) =>
      d.question === QUANTITY_LABELS[quantity] || d.question.toLowerCase() === QUANTITY_LABELS[quantity].toLowerCase(),
  );
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
  const name: Record<Stage, ReactNode> = {
    target: scenario.target.name || "Target",
    air: `${scenario.sky.target_altitude_deg}° high`,
    optics: `${contender.optics.aperture_mm} mm f/${((contender.optics.focal_length_mm * (contender.optics.reducer ?? 1)) / contender.optics.aperture_mm).toFixed(1)}`,
    filter: raw?.filter?.name ?? "No filter",
    sensor: `${contender.sensor.cfa ? "Colour" : "Mono"} · gain ${contender.gain}`,
    sub: exposure ? `${exposure.subs} × ${exposure.sub_s} s` : "",
  };
  const note: Record<Stage, string> = {
    target: "all its light",
    air: sky ? `${percent(left[1] ?? 0)}, sky ${ratio(sky.before_filter)}×` : percent(left[1] ?? 0),
    optics: percent(left[2] ?? 0),
    filter:
      sky?.after_filter != null ? `${percent(left[3] ?? 0)}, sky ${ratio(sky.after_filter)}×` : percent(left[3] ?? 0),
    sensor: percent(left[4] ?? 0),
    sub: many
      ? `${clock(scenario.total_s * (raw?.share ?? 1))} of ${clock(scenario.total_s)}`
      : clock(scenario.total_s),
  };
  const move = (by: number) =>
    p.change((s) => {
      const [row] = s.contenders.splice(index, 1);
      if (row) s.contenders.splice(index + by, 0, row);
    });

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
          <RowMenu {...p} move={move} />
        </div>
      </div>

      <div className="relative min-w-0">
        <Ribbon
          left={left}
          quantity={quantity}
          lost={!result}
          before={sky?.before_filter ?? 0}
          after={sky?.after_filter ?? 0}
        />
        <div className="relative grid h-full grid-cols-6 pt-[32px]">
          {STAGES.map((stage) => (
            <Popover.Root key={stage} open={p.open === stage} onOpenChange={(o) => p.setOpen(o ? stage : null)}>
              <Popover.Trigger
                onClick={(e) => e.stopPropagation()}
                data-testid={`stage-${letter}-${stage}`}
                className={`min-w-0 rounded-md px-1.5 text-left hover:bg-edge/60 data-[state=open]:bg-edge `}
              >
                <span className="block truncate text-[0.9rem]">{name[stage]}</span>
                <span className="block truncate text-[0.82rem] text-muted tabular-nums">{note[stage]}</span>
              </Popover.Trigger>
              <Popover.Portal>
                <Popover.Content
                  side="bottom"
                  align="start"
                  sideOffset={6}
                  collisionPadding={10}
                  onClick={(e) => e.stopPropagation()}
                  className="rise z-30 max-h-[min(34rem,var(--radix-popover-content-available-height))] w-[min(24rem,94vw)] overflow-y-auto rounded-xl border border-edge bg-surface p-4 shadow-2xl shadow-black/50"
                  aria-label={`Edit ${stage} of path ${letter}`}
                >
                  <StageEditor
                    stage={stage}
                    index={index}
                    scenario={scenario}
                    library={p.library}
                    change={p.change}
                    errors={p.errors}
                  />
                  <Popover.Arrow className="fill-edge" />
                </Popover.Content>
              </Popover.Portal>
            </Popover.Root>
          ))}
        </div>
      </div>

      <div className="flex min-w-0 flex-col justify-center border-l border-edge pl-3">
        {result ? (
          <>
            <div className="flex items-baseline gap-2">
              <span className="num text-[1.45rem] leading-7 font-semibold text-decide" data-testid={`snr-${letter}`}>
                {snr(result.snr)}
              </span>
              <span className="truncate text-[0.86rem] text-muted">SNR in {clock(scenario.total_s)}</span>
            </div>
            <div className="truncate text-[0.9rem]">
              SNR {scenario.goal_snr ?? 20} in{" "}
              <span className="num" data-testid={`goal-${letter}`}>
                {clock(result.time_to_goal_s)}
              </span>
            </div>
            <div
              className={`text-[0.86rem] leading-4.5 ${index === 0 ? "text-muted" : "text-salt"}`}
              data-testid={`difference-${letter}`}
              title={difference?.reasons.join("\n")}
            >
              {index === 0 ? "the baseline" : <Words text={difference?.text ?? ""} />}
            </div>
          </>
        ) : (
          <div className="text-[0.9rem] text-muted">
            {answer ? <Words text={`Records no ${QUANTITY_LABELS[quantity]}.`} /> : "…"}
          </div>
        )}
      </div>
    </article>
  );
}

const ratio = (x: number) => (x >= 10 ? x.toFixed(0) : x.toFixed(1));

type RibbonProps = { left: number[]; quantity: Quantity; lost: boolean; before: number; after: number };

/**
 * Light as a ribbon: its width at each stage is what remains of what set out. The stream under it is the sky, which joins in the
 * air; its width is the logarithm of how many times it outshines the light.
 */
function Ribbon({ left, quantity, lost, before, after }: RibbonProps) {
  const [w, h, ground] = [600, 20, 31];
  const step = w / left.length;
  const half = (f: number) => Math.max(0.7, (f * (h - 4)) / 2);
  const stream = (r: number) => (r > 0 ? Math.min(10, 1 + 3.2 * Math.log10(1 + r)) : 0);
  const x = (i: number) => (i === 0 ? 0 : i * step);
  const top: string[] = [];
  const bottom: string[] = [];
  left.forEach((f, i) => {
    const earlier = left[i - 1] ?? f;
    // Flat along a stage, narrowing over the first part of the next.
    const points: [number, number][] =
      i === 0
        ? [[0, f]]
        : [
            [x(i) - step * 0.12, earlier],
            [x(i) + step * 0.16, f],
          ];
    if (i === left.length - 1) points.push([w, f]);
    for (const [px, pf] of points) {
      top.push(`${px.toFixed(1)},${(h / 2 - half(pf)).toFixed(2)}`);
      bottom.unshift(`${px.toFixed(1)},${(h / 2 + half(pf)).toFixed(2)}`);
    }
  });
  const [wide, thin] = [stream(before), stream(after)];
  const id = `ribbon-${quantity}`;
  const sky = `M${x(1) - step * 0.1},${ground} C${x(1) + step * 0.1},${ground} ${x(1) + step * 0.1},${ground - wide} ${x(1) + step * 0.4},${ground - wide} L${x(3) - step * 0.12},${ground - wide} L${x(3) + step * 0.16},${ground - thin} L${w},${ground - thin} L${w},${ground} Z`;
  return (
    <svg
      aria-hidden
      viewBox={`0 0 ${w} ${ground}`}
      preserveAspectRatio="none"
      className="absolute inset-x-0 top-0 h-[31px] w-full"
      style={{ opacity: lost ? 0.25 : 1 }}
    >
      <defs>
        <linearGradient id={id} x1="0" x2="1" y1="0" y2="0">
          <stop offset="0" stopColor={hue(quantity)} stopOpacity="0.55" />
          <stop offset="1" stopColor={hue(quantity)} stopOpacity="0.95" />
        </linearGradient>
      </defs>
      <rect x="0" y="1" width={w} height={h - 2} rx="3" fill={hue(quantity)} opacity="0.07" />
      <path d={sky} fill="var(--amber)" opacity="0.42" />
      <polygon points={[...top, ...bottom].join(" ")} fill={`url(#${id})`} />
      {left.slice(1).map((_, i) => (
        <line
          key={i}
          x1={x(i + 1)}
          x2={x(i + 1)}
          y1="0"
          y2={ground}
          stroke="var(--ground)"
          strokeWidth="1.5"
          opacity="0.55"
        />
      ))}
    </svg>
  );
}

const item =
  "flex items-center gap-2 rounded px-2.5 py-1.5 outline-none data-highlighted:bg-edge data-disabled:opacity-40";

function RowMenu({ index, scenario, change, move, hide, beginCampaign }: Props & { move: (by: number) => void }) {
  const letter = mark(index).letter;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`More for path ${letter}`}
        onClick={(e) => e.stopPropagation()}
        className="grid size-[24px] shrink-0 place-items-center rounded text-muted hover:bg-edge hover:text-ink"
      >
        <Ellipsis size={16} aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={4}
          onClick={(e) => e.stopPropagation()}
          className="rise z-40 min-w-44 rounded-md border border-edge bg-raised p-1 shadow-xl shadow-black/40"
        >
          <DropdownMenu.Item
            className={item}
            disabled={scenario.contenders.length >= 12}
            onSelect={() =>
              change((s) => {
                const c = s.contenders[index];
                if (c)
                  s.contenders.splice(index + 1, 0, { ...structuredClone(c), name: `${c.name} (copy)`.slice(0, 200) });
              })
            }
          >
            <Copy size={14} aria-hidden /> Copy
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} disabled={index === 0} onSelect={() => move(-1)}>
            <ArrowUp size={14} aria-hidden /> Move up{index === 1 ? ", make it the baseline" : ""}
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={item}
            disabled={index === scenario.contenders.length - 1}
            onSelect={() => move(1)}
          >
            <ArrowDown size={14} aria-hidden /> Move down
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={beginCampaign}>
            <Gem size={14} aria-hidden /> Begin a campaign with it
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} disabled={index === 0} onSelect={hide}>
            <EyeOff size={14} aria-hidden /> Hide
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={`${item} text-danger`}
            disabled={scenario.contenders.length === 1}
            onSelect={() => change((s) => void s.contenders.splice(index, 1))}
          >
            <Trash2 size={14} aria-hidden /> Remove (u brings it back)
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
