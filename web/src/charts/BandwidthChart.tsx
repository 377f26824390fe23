import { scaleLinear, scaleLog } from "d3-scale";
import { line } from "d3-shape";
import { useMemo } from "react";
import { api, must, type Quantity, type Scenario } from "@/api/client";
import { Words } from "@/parts/Words";
import { QUANTITY_LABELS } from "@/theme/marks";
import { useLive } from "@/views/bench/useLive";
import { ChartFrame } from "./ChartFrame";

type Props = { scenario: Scenario; contender: number; quantity: Quantity; letter: string };
const PAD = { left: 50, right: 14, top: 8, bottom: 30 };

/** How narrow is best at each focal ratio, under this sky. */
export function BandwidthChart({ scenario, contender, quantity, letter }: Props) {
  const question = useMemo(() => ({ scenario, contender, quantity }), [scenario, contender, quantity]);
  const { answer, problem } = useLive(question, (q, signal) =>
    must(
      api.POST("/api/v1/charts/bandwidth", {
        params: { query: { contender: q.contender, quantity: q.quantity } },
        body: q.scenario,
        signal,
      }),
    ),
  );
  const label = QUANTITY_LABELS[quantity];
  if (problem && !answer)
    return (
      <section className="rounded-xl bg-surface p-4">
        <h2 className="font-medium">Bandwidth against focal ratio</h2>
        <p className="mt-1 text-muted">
          This chart is for emission lines. Choose a line that the target emits above the light paths.
        </p>
      </section>
    );
  const twin = {
    columns: ["Width (nm)", ...(answer?.focal_ratios.map((n) => `f/${n}`) ?? [])],
    rows:
      answer?.widths_nm.map((w, j) => [w.toFixed(1), ...answer.relative_snr.map((r) => (r[j] ?? 0).toFixed(3))]) ?? [],
  };
  const yours = answer?.yours;
  return (
    <ChartFrame
      title={`Bandwidth for ${label}, rig ${letter}`}
      question="How narrow is best in this cone, under this sky?"
      twin={twin}
      height={188}
    >
      {(width, height) => {
        if (!answer) return null;
        const text = Math.min(250, width * 0.32);
        const right = width - text - PAD.right;
        const ratios = answer.focal_ratios;
        const x = scaleLog([ratios[0] ?? 1.8, ratios.at(-1) ?? 10], [PAD.left + 14, right - 14]);
        const y = scaleLinear([1.75, 20.25], [height - PAD.bottom, PAD.top]);
        const edge = (i: number) =>
          i < 0 ? PAD.left : i >= ratios.length - 1 ? right : (x(ratios[i] ?? 1) + x(ratios[i + 1] ?? 1)) / 2;
        const cell = Math.abs(y(0.5) - y(0));
        const best = line<number>()
          .x((_, i) => x(ratios[i] ?? 1))
          .y((w) => y(w))(answer.best_width_nm);
        const own = Math.min(ratios.at(-1) ?? 10, Math.max(ratios[0] ?? 1.8, answer.focal_ratio));
        return (
          <div className="flex gap-4">
            <svg
              width={right + 6}
              height={height}
              role="img"
              aria-label={`Relative signal to noise of ${label} by focal ratio and bandwidth. ${answer.text}`}
              style={{ fontFamily: "var(--font-mono)", fontSize: 11.5 }}
            >
              {answer.relative_snr.map((row, i) =>
                row.map((v, j) => (
                  <rect
                    key={`${ratios[i]}-${answer.widths_nm[j]}`}
                    x={edge(i - 1)}
                    width={Math.max(0, edge(i) - edge(i - 1))}
                    y={y(answer.widths_nm[j] ?? 0) - cell / 2}
                    height={cell}
                    shapeRendering="crispEdges"
                    fill="var(--salt)"
                    opacity={Math.max(0, (v - 0.2) / 0.8) ** 2 * 0.85}
                  />
                )),
              )}
              <path d={best ?? ""} fill="none" stroke="var(--ink)" strokeWidth={1.6} strokeDasharray="5 3" />
              <line
                x1={x(own)}
                x2={x(own)}
                y1={PAD.top}
                y2={height - PAD.bottom}
                stroke="var(--amber)"
                strokeWidth={1.2}
              />
              {yours?.fwhm_nm != null && yours.fwhm_nm <= 20 && (
                <g>
                  <circle
                    cx={x(own)}
                    cy={y(yours.fwhm_nm)}
                    r={5.5}
                    fill="var(--ground)"
                    stroke="var(--amber)"
                    strokeWidth={2.2}
                  />
                  <text
                    x={x(own) + 10}
                    y={y(yours.fwhm_nm) - 7}
                    fill="var(--ink)"
                    stroke="var(--ground)"
                    strokeWidth={3}
                    paintOrder="stroke"
                  >
                    yours
                  </text>
                </g>
              )}
              <text
                x={x(ratios[7] ?? 4) + 6}
                y={y(answer.best_width_nm[7] ?? 5) - 8}
                fill="var(--ink)"
                stroke="var(--ground)"
                strokeWidth={3}
                paintOrder="stroke"
              >
                best, centred
              </text>
              {[2, 2.8, 4, 5.6, 8, 10].map((n) => (
                <text key={n} x={x(n)} y={height - PAD.bottom + 16} textAnchor="middle" fill="var(--muted)">
                  f/{n}
                </text>
              ))}
              {[3, 5, 7, 12, 20].map((w) => (
                <text key={w} x={PAD.left - 6} y={y(w) + 4} textAnchor="end" fill="var(--muted)">
                  {w} nm
                </text>
              ))}
            </svg>
            <div style={{ width: text }} className="self-center text-[0.93rem]">
              <p className="leading-5">
                <Words text={answer.text} />
              </p>
              {yours && (
                <dl className="mt-3 grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5">
                  {(["a copy too blue", "as named", "a copy too red"] as const).map((name, i) => (
                    <div key={name} className="contents">
                      <dt className="text-muted">{name}</dt>
                      <dd className="num text-right">{((yours.relative_snr[i] ?? 0) * 100).toFixed(0)} %</dd>
                    </div>
                  ))}
                </dl>
              )}
            </div>
          </div>
        );
      }}
    </ChartFrame>
  );
}
