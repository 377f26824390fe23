import type { Scenario, SubCriterion, SubDecision } from "@/api/client";
import { ChartFrame } from "@/charts/ChartFrame";
import { choose } from "@/parts/choices";
import { Select } from "@/parts/controls/Select";
import { useQuantityName } from "@/parts/quantityName";
import { SubAnswer } from "./SubAnswer";
import { SubPicture } from "./SubPicture";
import { SCHOOL_LABELS } from "./schools";

type Change = (edit: (draft: Scenario) => void) => void;
type Props = {
  scenario: Scenario;
  /** The sub of every exposure of the path; undefined until it is known. */
  subs: SubDecision[] | undefined;
  contender: number;
  exposure: number;
  setExposure: (i: number) => void;
  letter: string;
  change: Change;
};

/** Information per hour against the length of a sub: how long, and how little it matters. */
export function SubChart({ scenario, subs, contender, exposure, setExposure, letter, change }: Props) {
  const nameOf = useQuantityName();
  const list = subs ?? [];
  const at = Math.min(exposure, Math.max(0, list.length - 1));
  const sub = list[at];
  const school = scenario.choices?.school ?? "best";
  const yours = scenario.contenders[contender]?.exposures[at]?.sub_s ?? sub?.yours_s ?? 60;
  const setSub = (t: number) =>
    change((s) => {
      const e = s.contenders[contender]?.exposures[at];
      if (e) e.sub_s = Number(t.toPrecision(t < 10 ? 2 : 3));
    });
  const curves = sub?.curves ?? [];
  const twin = {
    columns: [
      "Sub (s)",
      ...curves.flatMap((c) =>
        ["share of best", "low", "high"].map((end) => `${nameOf(c.quantity)}, ${c.channel} (${end})`),
      ),
    ],
    rows: (sub?.chart_s ?? []).map((t, i) => [
      t.toPrecision(4),
      ...curves.flatMap((c) => [c.information, c.low, c.high].map((v) => (v[i] ?? 0).toFixed(3))),
    ]),
  };
  // The camera's whole table is off by one factor, if it is off.
  const takeGain = (factor: number) =>
    change((s) => {
      for (const row of s.contenders[contender]?.sensor.gains ?? []) row.e_per_adu *= factor;
    });
  return (
    <ChartFrame
      title={`Length of a sub, path ${letter}`}
      question="How much information per hour does a sub of each length give?"
      twin={twin}
      height={214}
      side={
        <>
          {list.length > 1 && (
            <div className="w-40">
              <Select
                hideLabel
                label="Filter of the sub"
                value={String(at)}
                options={list.map((d, i) => ({ value: String(i), label: d.filter ?? "No filter" }))}
                onChange={(v) => setExposure(Number(v))}
                testId="sub-exposure"
              />
            </div>
          )}
          <div className="w-40">
            <Select
              hideLabel
              label="School"
              value={school}
              options={Object.entries(SCHOOL_LABELS).map(([value, label]) => ({ value, label }))}
              onChange={(v) => change((s) => choose(s, { school: v as SubCriterion }))}
              testId="school"
            />
          </div>
        </>
      }
      below={sub && <SubAnswer {...{ sub, scenario, yours, setSub, takeGain, change }} />}
    >
      {(width, height) =>
        sub ? <SubPicture {...{ sub, width, height, school, letter, yours, setSub }} /> : <div style={{ height }} />
      }
    </ChartFrame>
  );
}
