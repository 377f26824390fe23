import type { GainDecision, Scenario } from "@/api/client";
import { ChartFrame } from "@/charts/ChartFrame";
import { choose } from "@/parts/choices";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { fixed, seconds } from "@/parts/format";
import { GainPicture } from "./GainPicture";

type Props = {
  scenario: Scenario;
  /** What is decided about the gain; undefined until it is known. */
  gain: GainDecision | undefined;
  contender: number;
  letter: string;
  change: (edit: (draft: Scenario) => void) => void;
};

/** The gain ladder: what each setting gives, and the one to use. */
export function GainChart({ scenario, gain, contender, letter, change }: Props) {
  const options = gain?.options ?? [];
  const yours = scenario.contenders[contender]?.gain ?? 0;
  const purpose = scenario.choices?.purpose ?? "imaging";
  const gainSub = scenario.choices?.gain_sub ?? "kept";
  // Chosen as a pair, the sub goes with the gain.
  const pair = gainSub === "own" && purpose === "imaging" ? gain?.pair : undefined;
  const kept = pair && scenario.contenders[contender]?.exposures[pair.exposure]?.sub_s;
  const advised = pair?.setting ?? gain?.advised;
  const set = (setting: number, pair?: GainDecision["pair"]) =>
    change((s) => {
      const c = s.contenders[contender];
      if (!c) return;
      c.gain = setting;
      const e = pair && c.exposures[pair.exposure];
      if (e) e.sub_s = Math.round(pair.sub_s);
    });
  const scale = gain?.scale === "ISO" ? "ISO" : "Gain";
  const share = (x: number) => (x * 100).toPrecision(3);
  const twin = {
    columns: [
      scale,
      "e-/ADU",
      "Read noise (e-)",
      "Full scale (e-)",
      "Safe offset (ADU)",
      "Range (stops)",
      ...["", ", low", ", high"].map((end) => `Sub${end} (s)`),
      "Stars clip above (V mag)",
      "Core fills (%)",
      ...["", ", low", ", high"].map((end) => `Information${end} (% of the best)`),
      "Within limits",
    ],
    rows: options.map((r) => [
      r.setting,
      r.e_per_adu.toPrecision(3),
      r.read_noise_e.toFixed(2),
      r.full_scale_e.toFixed(0),
      Math.ceil(r.safe_offset_adu),
      r.range_stops.toFixed(1),
      ...[r.sub_s, r.sub_range_s.low, r.sub_range_s.high].map((t) => t.toPrecision(3)),
      // Where the sky itself clips there is no star to name.
      r.star_clips_v_mag == null ? "" : fixed(r.star_clips_v_mag, 1),
      share(r.core_fill),
      ...[r.information, r.information_range.low, r.information_range.high].map(share),
      r.within_limits ? "yes" : "no",
    ]),
  };
  return (
    <ChartFrame
      title={`${scale} ladder, path ${letter}`}
      question="Which setting gives the most per hour, and what does it cost in range?"
      twin={twin}
      height={200}
      side={
        <div className="flex flex-wrap gap-2 *:w-48 max-xl:*:w-40">
          <Select
            hideLabel
            label="Judged at"
            value={gainSub}
            options={[
              { value: "kept", label: "In the sub I keep" },
              { value: "own", label: "Gain and sub as a pair" },
            ]}
            onChange={(v) => change((s) => choose(s, { gain_sub: v as "kept" | "own" }))}
            testId="gain-sub"
          />
          <Select
            hideLabel
            label="Purpose"
            value={purpose}
            options={[
              { value: "imaging", label: "A stack to keep" },
              { value: "live", label: "Live viewing" },
            ]}
            onChange={(v) => change((s) => choose(s, { purpose: v as "imaging" | "live" }))}
            testId="purpose"
          />
        </div>
      }
      below={
        gain && (
          <div className="mt-1 flex flex-wrap items-center gap-3">
            <p className="min-w-0 flex-1 basis-72 leading-5" data-testid="gain-text">
              {scale} {gain.text}.
            </p>
            <Button
              look="lit"
              disabled={advised === yours && (!pair || Math.abs(pair.sub_s - (kept ?? 0)) < 1)}
              onClick={() => set(advised ?? yours, pair)}
            >
              Use {scale.toLowerCase() === "iso" ? "ISO" : "gain"} {advised}
              {pair && ` with ${seconds(pair.sub_s)}`}
            </Button>
          </div>
        )
      }
    >
      {(width, height) =>
        gain ? <GainPicture {...{ gain, yours, scale, set, width, height }} /> : <div style={{ height }} />
      }
    </ChartFrame>
  );
}
