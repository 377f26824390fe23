import { useMemo } from "react";
import { answerOf, api, type Quantity, type Scenario } from "@/api/client";
import { useLive } from "@/api/useLive";
import { BandSurface } from "@/charts/BandSurface";
import { ChartFrame } from "@/charts/ChartFrame";
import { Select } from "@/parts/controls/Select";
import { ends } from "@/parts/format";
import { useQuantityName } from "@/parts/quantityName";
import { useParamsEdit } from "@/parts/useParams";
import { Words } from "@/parts/Words";

type Props = { scenario: Scenario; contender: number; quantity: Quantity; letter: string };
const AGAINST = [
  { value: "ratio", label: "Focal ratio" },
  { value: "centre", label: "Its centre" },
];
const COPIES = ["a copy too blue", "as named", "a copy too red"] as const;
const percent = (x: number) => `${(x * 100).toFixed(0)}`;

/** How narrow is best under this sky, at each focal ratio, or with the centre moved to the red at the rig's own. */
export function BandwidthChart({ scenario, contender, quantity, letter }: Props) {
  const nameOf = useQuantityName();
  const [params, edit] = useParamsEdit();
  const against = params.get("against") === "centre" ? "centre" : "ratio";
  const question = useMemo(() => ({ scenario, contender, quantity }), [scenario, contender, quantity]);
  const { answer, problem } = useLive(question, (q, signal) =>
    answerOf(
      api.POST("/api/v1/charts/bandwidth", {
        params: { query: { contender: q.contender, quantity: q.quantity } },
        body: q.scenario,
        signal,
      }),
    ),
  );
  const label = nameOf(quantity);
  if (problem && !answer)
    return (
      <section className="rounded-xl bg-surface p-4">
        <h2 className="font-medium">Bandwidth against focal ratio</h2>
        <p className="mt-1 text-muted">
          This chart is for emission lines. Choose a line that the target emits above the light paths.
        </p>
      </section>
    );
  const byRatio = against === "ratio";
  const columns =
    answer && (byRatio ? answer.focal_ratios.map((n) => `f/${n}`) : answer.offsets_nm.map((n) => `+${n} nm`));
  const surface = answer && (byRatio ? answer.relative_snr : answer.offset_snr);
  const twin = {
    columns: ["Width (nm)", ...(columns ?? [])],
    rows: answer?.widths_nm.map((w, j) => [w.toFixed(1), ...(surface ?? []).map((r) => (r[j] ?? 0).toFixed(3))]) ?? [],
  };
  const yours = answer?.yours;
  return (
    <ChartFrame
      title={`Bandwidth for ${label}, rig ${letter}`}
      question={
        byRatio ? "How narrow is best in this cone, under this sky?" : "Would a band shifted to the red do better?"
      }
      twin={twin}
      height={184}
      side={
        <div className="w-32">
          <Select
            hideLabel
            label="Width against"
            value={against}
            options={AGAINST}
            onChange={(v) => edit((p) => (v === "centre" ? p.set("against", v) : p.delete("against")))}
            testId="band-against"
          />
        </div>
      }
    >
      {(width, height) => {
        if (!answer) return null;
        const text = Math.min(270, width * 0.36);
        return (
          <div className="flex gap-4">
            <BandSurface answer={answer} against={against} width={width - text} height={height} label={label} />
            <div style={{ width: text }} className="self-center text-[0.93rem]">
              <p className="leading-5">
                <Words text={answer.text} />
              </p>
              {yours && (
                <dl className="mt-2 grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5">
                  {COPIES.map((name, i) => {
                    const [low, high] = yours.relative_snr_range[i] ?? [0, 0];
                    const range = ends({ low: low ?? 0, high: high ?? 0 }, percent);
                    return (
                      <div key={name} className="contents">
                        <dt className="text-muted">{name}</dt>
                        <dd className="num text-right">
                          {percent(yours.relative_snr[i] ?? 0)} %
                          {range && <span className="text-muted"> ({range})</span>}
                        </dd>
                      </div>
                    );
                  })}
                </dl>
              )}
            </div>
          </div>
        );
      }}
    </ChartFrame>
  );
}
