import { Eye } from "lucide-react";
import type { ReactNode } from "react";
import type { BenchAnswer, FieldError, Library, Quantity, Scenario } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { Choice } from "@/parts/controls/Choice";
import { useQuantityName } from "@/parts/quantityName";
import { contenderMark, hue } from "@/theme/marks";
import { AddPath } from "./AddPath";
import { PathRow } from "./PathRow";

type Props = {
  scenario: Scenario;
  library: Library;
  answer: BenchAnswer | undefined;
  errors: FieldError[];
  /** The quantity that paths are judged by, of those that are recorded. */
  quantity: Quantity;
  recorded: Quantity[];
  /** Whether they are judged by all that the first is for. */
  together: boolean;
  setQuantity: (q: Quantity | typeof TOGETHER) => void;
  selected: number;
  hidden: ReadonlySet<number>;
  hide: (i: number, away: boolean) => void;
  beginCampaign: (i: number) => void;
  change: (edit: (draft: Scenario) => void) => void;
  params: URLSearchParams;
  param: (edit: (p: URLSearchParams) => void) => void;
};

/** In the place of a quantity: all that the first path is for, until the last of it is at its goal. */
export const TOGETHER = "all";

/** The light paths, a row each; those out of sight are named below. */
export function Paths(p: Props) {
  const { scenario, answer, hidden, hide, change, param } = p;
  const edited = p.params.get("edit")?.split(".") ?? [];
  return (
    <section aria-label="Light paths" className="flex flex-col gap-1.5">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h2 className="text-[1.02rem] font-medium">Light paths</h2>
        <QuantityChoice
          list={p.recorded}
          all={answer && wantedOf(answer) > 1 ? answer.rows[0]?.together.label : undefined}
          value={p.together ? TOGETHER : p.quantity}
          set={p.setQuantity}
        />
        <div className="grow" />
        <AddPath scenario={scenario} selected={p.selected} change={change} />
      </div>
      {scenario.contenders.map((c, i) =>
        hidden.has(i) ? null : (
          <PathRow
            key={i}
            hide={() => hide(i, true)}
            beginCampaign={() => p.beginCampaign(i)}
            index={i}
            scenario={scenario}
            contender={c}
            answer={answer?.evaluation.contenders[i]}
            words={answer?.rows[i]}
            quantity={p.quantity}
            judged={answer?.judged ?? []}
            together={p.together}
            selected={i === p.selected}
            select={() => param((q) => q.set("row", String(i)))}
            library={p.library}
            change={change}
            errors={p.errors}
            open={edited[0] === String(i) ? (edited[1] ?? null) : null}
            setOpen={(stage) => param((q) => (stage ? q.set("edit", `${i}.${stage}`) : q.delete("edit")))}
          />
        ),
      )}
      {hidden.size > 0 && (
        <div className="flex flex-wrap items-center gap-2 pl-1 text-[0.9rem] text-muted" data-testid="hidden-rows">
          Hidden:
          {[...hidden].map((i) => (
            <Button
              key={i}
              look="quiet"
              onClick={() => hide(i, false)}
              aria-label={`Show path ${contenderMark(i).letter}`}
            >
              <b style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</b> {scenario.contenders[i]?.name}
              <Eye size={14} aria-hidden />
            </Button>
          ))}
        </div>
      )}
    </section>
  );
}

type ChoiceProps = {
  list: Quantity[];
  /** All that the first path is for, in words; none where that is one light. */
  all: string | undefined;
  value: Quantity | typeof TOGETHER;
  set: (q: Quantity | typeof TOGETHER) => void;
};

function QuantityChoice({ list, all, value, set }: ChoiceProps) {
  const nameOf = useQuantityName();
  return (
    <Choice
      label="Judge by"
      value={value}
      onChange={set}
      options={[
        ...(all
          ? [{ value: TOGETHER as typeof TOGETHER, label: <span title={`All that A is for: ${all}`}>All of it</span> }]
          : []),
        ...list.map((q): { value: Quantity | typeof TOGETHER; label: ReactNode } => ({
          value: q,
          label: (
            <>
              <span aria-hidden className="size-2 rounded-full" style={{ background: hue(q) }} />
              {nameOf(q)}
            </>
          ),
        })),
      ]}
    />
  );
}

/** How many lights of the scenario's goals there are. */
const wantedOf = (answer: BenchAnswer) => answer.judged.filter((j) => j.wanted && j.quantity !== "ha_alone").length;
