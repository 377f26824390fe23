import type { BenchAnswer, ContenderAnswer, Quantity, Scenario } from "@/api/client";
import { clock, snr } from "@/parts/format";
import { useQuantityName } from "@/parts/quantityName";
import { Words } from "@/parts/Words";
import { contenderMark } from "@/theme/marks";

type Props = {
  index: number;
  scenario: Scenario;
  answer: ContenderAnswer | undefined;
  words: BenchAnswer["rows"][number] | undefined;
  quantity: Quantity;
};

/** What a path reaches in the quantity that is judged, and how it differs from the baseline. */
export function PathResult({ index, scenario, answer, words, quantity }: Props) {
  const nameOf = useQuantityName();
  const letter = contenderMark(index).letter;
  const result = answer?.quantities[quantity];
  const difference = words?.differences.find((d) => d.quantity === quantity);
  return (
    <div className="flex min-w-0 flex-col justify-center border-l border-edge pl-3">
      {result?.mixed_with ? (
        // What the picture shows there is mostly the other line: a figure in large type would say
        // that this path can tell the two apart.
        <>
          <div className="text-[1.05rem] leading-7 font-semibold text-amber" data-testid={`mixed-${letter}`}>
            Mixed with {result.mixed_with_name}
          </div>
          <div className="text-[0.86rem] leading-4.5 text-muted">
            What it has of {nameOf(quantity)} would have SNR{" "}
            <span className="num" data-testid={`snr-${letter}`}>
              {snr(result.snr)}
            </span>{" "}
            in {clock(scenario.total_s)}, and no picture shows it alone.
          </div>
        </>
      ) : result ? (
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
          {answer ? <Words text={`Records no ${nameOf(quantity)}.`} /> : "…"}
        </div>
      )}
    </div>
  );
}
