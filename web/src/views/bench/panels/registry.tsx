import type { ReactNode } from "react";
import type { BenchAnswer, Library, Quantity, Scenario } from "@/api/client";
import { useDecisions, useGains, useSubs } from "@/api/useDecisions";
import type { Live } from "@/api/useLive";
import { LiveProblem } from "@/parts/LiveProblem";
import { contenderMark } from "@/theme/marks";
import { bestExposure } from "../bestExposure";
import { FramePanel } from "../frame/FramePanel";
import { LookPanel } from "../look/LookPanel";
import { BandwidthChart } from "./BandwidthChart";
import { BudgetPanel } from "./BudgetPanel";
import { CompareTable } from "./CompareTable";
import { FilterRanking } from "./FilterRanking";
import { GainChart } from "./GainChart";
import { SpectrumChart } from "./SpectrumChart";
import { SubChart } from "./SubChart";
import { TimeChart } from "./TimeChart";
import { WorthPanel } from "./WorthPanel";

/** What every panel of the bench may ask for. */
export type PanelProps = {
  scenario: Scenario;
  answer: BenchAnswer;
  library: Library;
  /** The path that is selected, and the quantity it is judged by. */
  contender: number;
  quantity: Quantity;
  /** Whether it is all that the first path is for that is judged; the quantity is then the one that is there last. */
  together: boolean;
  hidden: ReadonlySet<number>;
  /** Whether the scenario is refused just now: what is drawn is the last that was accepted. */
  refused: boolean;
  change: (edit: (draft: Scenario) => void) => void;
  params: URLSearchParams;
  param: (edit: (p: URLSearchParams) => void) => void;
};

/** A panel over an answer of its own: the last one, and above it what is wrong with the next. */
function over<A>(p: PanelProps, { answer, problem, againInS }: Live<A>, draw: (answer: A | undefined) => ReactNode) {
  return (
    <>
      {!p.refused && <LiveProblem problem={problem} againInS={againInS} scenario={p.scenario} />}
      {draw(answer)}
    </>
  );
}

const common = ({ scenario, contender, change }: PanelProps) => ({
  scenario,
  contender,
  change,
  letter: contenderMark(contender).letter,
});

function Time({ answer, quantity, scenario, contender, hidden, params, param }: PanelProps) {
  // Stars to a magnitude have no side of a square.
  const stars = answer.judged.find((j) => j.quantity === quantity)?.goal.star_v_mag != null;
  const by = stars || params.get("time") === "snr" ? "snr" : "clean";
  return (
    <TimeChart
      {...{ answer, quantity, by, hidden }}
      totalS={answer.evaluation.contenders[contender]?.clock_s ?? scenario.total_s}
      setBy={stars ? undefined : (v) => param((p) => (v === "snr" ? p.set("time", v) : p.delete("time")))}
      selected={contender}
    />
  );
}

function Sub(p: PanelProps) {
  return over(p, useSubs(p.scenario), (subs) => (
    <SubChart
      {...common(p)}
      subs={subs?.[p.contender]}
      exposure={Number(p.params.get("exposure") ?? 0) || 0}
      setExposure={(i) => p.param((q) => q.set("exposure", String(i)))}
    />
  ));
}

const Gain = (p: PanelProps) =>
  over(p, useGains(p.scenario), (gains) => <GainChart {...common(p)} gain={gains?.[p.contender]} />);

const Budget = (p: PanelProps) =>
  over(p, useDecisions(p.scenario), (decisions) => <BudgetPanel {...common(p)} decisions={decisions} />);

const Worth = (p: PanelProps) =>
  over(p, useDecisions(p.scenario), (decisions) => (
    <WorthPanel {...common(p)} decisions={decisions} by={p.together ? null : p.quantity} answer={p.answer} />
  ));

function Filters(p: PanelProps) {
  /** Puts a filter of the ranking into the exposure that records the quantity best. */
  const use = (id: string | null) => {
    const filter = p.library.filters.find((f) => f.id === id)?.filter ?? null;
    const at = bestExposure(p.answer.evaluation.contenders[p.contender], p.quantity);
    p.change((s) => {
      const exposure = s.contenders[p.contender]?.exposures[at];
      if (exposure) exposure.filter = structuredClone(filter);
    });
  };
  const { scenario, contender, letter } = common(p);
  return (
    <FilterRanking
      {...{ scenario, contender, letter, use }}
      library={p.library}
      quantity={p.quantity}
      phrase={p.answer.judged.find((j) => j.quantity === p.quantity)?.goal_phrase ?? ""}
    />
  );
}

function Spectrum(p: PanelProps) {
  const { scenario, contender, letter } = common(p);
  return <SpectrumChart scenario={scenario} contender={contender} letter={letter} />;
}

function Bandwidth(p: PanelProps) {
  const { scenario, contender, letter } = common(p);
  return <BandwidthChart scenario={scenario} contender={contender} letter={letter} quantity={p.quantity} />;
}

const Look = ({ scenario, contender, quantity, hidden }: PanelProps) => (
  <LookPanel scenario={scenario} selected={contender} quantity={quantity} hidden={hidden} />
);

const Table = ({ scenario }: PanelProps) => <CompareTable scenario={scenario} />;

const Frame = (p: PanelProps) => <FramePanel {...common(p)} />;

/** The panels of the bench in the order of their tabs. A new chart is a component here and a line below. */
export const PANELS = [
  { id: "time", label: "Time", Panel: Time },
  { id: "sub", label: "Sub", Panel: Sub },
  { id: "gain", label: "Gain", Panel: Gain },
  { id: "frame", label: "Test frame", Panel: Frame },
  { id: "budget", label: "Budget", Panel: Budget },
  { id: "filters", label: "Which filter", Panel: Filters },
  { id: "spectrum", label: "Spectrum", Panel: Spectrum },
  { id: "bandwidth", label: "Bandwidth", Panel: Bandwidth },
  { id: "look", label: "Look", Panel: Look },
  { id: "worth", label: "Worth", Panel: Worth },
  { id: "table", label: "Table", Panel: Table },
] as const;
