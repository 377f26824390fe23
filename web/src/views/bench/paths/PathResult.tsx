import type { BenchAnswer, ContenderAnswer, Quantity } from "@/api/client";
import { arcsec, clock, snr } from "@/parts/format";
import { useQuantityName } from "@/parts/quantityName";
import { Words } from "@/parts/Words";
import { contenderMark } from "@/theme/marks";

type Props = {
  index: number;
  judged: BenchAnswer["judged"];
  /** Whether paths are judged by all that the first is for. */
  together: boolean;
  answer: ContenderAnswer | undefined;
  words: BenchAnswer["rows"][number] | undefined;
  quantity: Quantity;
};

/** What a path reaches in the quantity that is judged, and how it differs from the baseline. */
export function PathResult(p: Props) {
  return p.together && p.words ? <TogetherResult {...p} words={p.words} /> : <OneResult {...p} />;
}

function OneResult({ index, judged, answer, words, quantity }: Props) {
  const nameOf = useQuantityName();
  const letter = contenderMark(index).letter;
  const result = answer?.quantities[quantity];
  const goal = judged.find((j) => j.quantity === quantity);
  const named = goal?.parts.find((p) => p.part === (goal.goal.part ?? "body"));
  const part = named && named.part !== "body" ? `${named.name} ` : "";
  const clockS = answer?.clock_s ?? 0;
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
            in {clock(clockS)}, and no picture shows it alone.
          </div>
        </>
      ) : result ? (
        <>
          <div className="flex items-baseline gap-2">
            <span className="num text-[1.45rem] leading-7 font-semibold text-decide" data-testid={`clean-${letter}`}>
              {result.stars_to_v_mag == null ? arcsec(result.clean_arcsec) : `V ${result.stars_to_v_mag.toFixed(1)}`}
            </span>
            <span className="truncate text-[0.86rem] text-muted">
              {result.stars_to_v_mag == null ? `${part}clean in ${clock(clockS)}` : `stars in ${clock(clockS)}`} · SNR{" "}
              <span className="num" data-testid={`snr-${letter}`}>
                {snr(result.snr)}
              </span>
            </span>
          </div>
          <div
            className="truncate text-[0.9rem]"
            title={answer.exposures.length > 1 ? "On the clock, all filters of the set together" : undefined}
          >
            {goal?.goal_how ?? ""} in{" "}
            <span className="num" data-testid={`goal-${letter}`}>
              {clock(result.time_to_goal_s)}
            </span>
            {answer.exposures.length > 1 && <span className="text-muted"> (set)</span>}
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

/** When all that the first path is for is at its goal on this one, and how clean each light is when the clock ends. */
function TogetherResult({ index, judged, answer, words }: Props & { words: BenchAnswer["rows"][number] }) {
  const { letter } = contenderMark(index);
  const { together } = words;
  const named = judged.filter((j) => j.wanted && j.quantity !== "ha_alone");
  const sides = named.flatMap((j) => {
    const side = answer?.quantities[j.quantity]?.clean_arcsec;
    return side == null ? [] : [`${j.name} ${arcsec(side)}`];
  });
  return (
    <div className="flex min-w-0 flex-col justify-center border-l border-edge pl-3">
      <div className="flex items-baseline gap-2">
        <span
          className="num text-[1.3rem] leading-7 font-semibold whitespace-nowrap text-decide"
          data-testid={`together-${letter}`}
        >
          {together.time_s == null ? "never" : clock(together.time_s)}
        </span>
        <span className="truncate text-[0.86rem] text-muted" title={together.label}>
          to every goal
        </span>
      </div>
      <div className="truncate text-[0.86rem] text-muted" title={sides.join(", ")}>
        {answer && `clean in ${clock(answer.clock_s)}: ${sides.join(", ")}`}
      </div>
      <div className={`text-[0.86rem] leading-4.5 ${index === 0 ? "text-muted" : "text-salt"}`}>
        <Words text={together.text} />
      </div>
    </div>
  );
}
