import type { Scenario, SubCriterion, SubDecision } from "@/api/client";
import type { RANGES } from "@/api/ranges";
import { choose } from "@/parts/choices";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { mag, seconds } from "@/parts/format";
import { range, usual } from "@/parts/range";
import { Words } from "@/parts/Words";
import { measuredThere } from "../measuredThere";
import { SchoolTable } from "./SchoolTable";

type Parameter = { key: keyof typeof RANGES.Choices; label: string; unit?: string; times?: number };

/** The number that belongs to a school, if it has one. */
const PARAMETER: Partial<Record<SubCriterion, Parameter>> = {
  excess: { key: "excess", label: "Noise added", unit: "%", times: 100 },
  swamp: { key: "swamp_factor", label: "Sky over read noise²", unit: "×" },
  histogram_adu: { key: "histogram_adu", label: "Above the offset", unit: "ADU" },
  histogram_fraction: { key: "histogram_fraction", label: "Of full scale", unit: "%", times: 100 },
  test_shot: { key: "faint_snr", label: "Faintly seen at SNR" },
  many_frames: { key: "least_frames", label: "At least", unit: "frames" },
};

type Props = {
  sub: SubDecision;
  scenario: Scenario;
  /** The sub in use, s. */
  yours: number;
  setSub: (t: number) => void;
  /** Multiplies the electrons per ADU of the path's camera. */
  takeGain: (factor: number) => void;
  change: (edit: (draft: Scenario) => void) => void;
};

/** What is decided about a sub, in words, with every school's figure beneath. */
export function SubAnswer({ sub, scenario, yours, setSub, takeGain, change }: Props) {
  const choices = scenario.choices;
  const school = choices?.school ?? "best";
  const parameter = PARAMETER[school];
  // As the sentence says it: two figures.
  const advice = Number(sub.advised_s.toPrecision(2));
  return (
    <div className="mt-1 flex flex-col gap-2">
      <div className="flex flex-wrap items-end gap-x-4 gap-y-1">
        <p className="min-w-0 flex-1 basis-72 leading-5" data-testid="sub-text">
          <Words text={`${sub.text}.`} />
        </p>
        {parameter && (
          <div className="w-44">
            <NumberField
              label={parameter.label}
              unit={parameter.unit}
              {...range("Choices", parameter.key, parameter.times)}
              value={Number(
                (
                  Number(choices?.[parameter.key] ?? usual("Choices", parameter.key)) * (parameter.times ?? 1)
                ).toPrecision(6),
              )}
              onChange={(v) => change((s) => choose(s, { [parameter.key]: v / (parameter.times ?? 1) }))}
              testId="school-parameter"
            />
          </div>
        )}
        <Button
          look="lit"
          disabled={Math.abs(advice / yours - 1) < 0.01}
          onClick={() => setSub(advice)}
          data-testid="use-sub"
        >
          Use {seconds(advice)}
        </Button>
      </div>
      {sub.test_frame && (
        <div className="flex flex-wrap items-center gap-2 text-[0.93rem]" data-testid="test-frame-told">
          <p className={`min-w-0 grow basis-80 ${sub.test_frame.agrees ? "" : "text-amber"}`}>{sub.test_frame.text}</p>
          <p className="w-full text-muted">
            The smallest offset that cuts nothing off at this gain: {sub.test_frame.least_offset_adu} ADU.
          </p>
          {sub.test_frame.toward_target_v_mag != null && (
            <Button
              onClick={() => {
                const v = sub.test_frame?.toward_target_v_mag;
                change((s) => measuredThere(s.sky, v ?? null));
              }}
            >
              Take {mag(sub.test_frame.toward_target_v_mag)} mag/″² as the sky there
            </Button>
          )}
          {sub.test_frame.gain_factor != null && (
            <Button
              title={`Multiplies the camera's e-/ADU by ${sub.test_frame.gain_factor.toFixed(2)}`}
              onClick={() => takeGain(sub.test_frame?.gain_factor ?? 1)}
            >
              Take {sub.test_frame.e_per_adu?.toPrecision(3)} e-/ADU as the gain
            </Button>
          )}
        </div>
      )}
      <SchoolTable criteria={sub.criteria} school={school} />
      {(sub.conflict || sub.short_set) && (
        <ul className="flex flex-col gap-1 text-[0.93rem]">
          {sub.conflict && (
            <li>
              <b className="font-medium text-amber">Two lines, one filter.</b> <Words text={sub.conflict.text} />
            </li>
          )}
          {sub.short_set && (
            <li>
              <b className="font-medium text-amber">A second set.</b> {sub.short_set.text}
            </li>
          )}
        </ul>
      )}
    </div>
  );
}
