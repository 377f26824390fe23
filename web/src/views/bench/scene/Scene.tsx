import { Select } from "@/parts/controls/Select";
import { Slider } from "@/parts/controls/Slider";
import { mag, typedClock } from "@/parts/format";
import { dragged } from "@/parts/range";
import { MoonCard } from "./MoonCard";
import { Card, type SceneProps as Props } from "./SceneCard";
import { SkyCard } from "./SkyCard";

const FAINTNESS_LABELS: Record<string, string> = {
  very_faint: "very faint",
  faint: "faint",
  moderate: "moderate",
  bright: "bright",
  very_bright: "very bright",
};

/** Target, sky, moon and clock: what all light paths share. */
export function Scene({ scenario, library, answer, change }: Props) {
  return (
    <section aria-label="The scene" className="grid grid-cols-4 gap-2.5 max-lg:grid-cols-2 max-sm:grid-cols-1">
      <TargetCard scenario={scenario} library={library} answer={answer} change={change} />
      <SkyCard scenario={scenario} library={library} answer={answer} change={change} />
      <MoonCard scenario={scenario} library={library} answer={answer} change={change} />
      <ClockCard scenario={scenario} library={library} answer={answer} change={change} />
    </section>
  );
}

function TargetCard({ scenario, library, change }: Props) {
  const { target } = scenario;
  const lines = target.lines_rayleigh;
  const kinds = [...new Map(library.targets.map((t) => [t.kind, t.label])).entries()].map(([value, label]) => ({
    value,
    label,
  }));
  const lined = lines.ha > 0;
  const near = library.targets
    .filter((t) => t.kind === target.kind && t.lines_rayleigh.ha > 0)
    .sort(
      (a, b) => Math.abs(Math.log(a.lines_rayleigh.ha / lines.ha)) - Math.abs(Math.log(b.lines_rayleigh.ha / lines.ha)),
    )[0];
  const takePreset = (kind: string) =>
    change((s) => {
      const faintness = near?.faintness ?? "moderate";
      const preset = library.targets.find((t) => t.kind === kind && t.faintness === faintness);
      if (preset) {
        s.target.kind = preset.kind;
        s.target.lines_rayleigh = { ...preset.lines_rayleigh };
        s.target.continuum = preset.continuum ? { ...preset.continuum } : null;
        s.target.peak_factor = preset.peak_factor;
        s.target.known = "preset";
      }
    });
  return (
    <Card
      title={
        <input
          aria-label="Name of the target"
          value={target.name}
          maxLength={200}
          placeholder="Name the target"
          onChange={(e) => change((s) => void (s.target.name = e.target.value))}
          className="w-full rounded bg-transparent font-medium hover:bg-raised focus:bg-well"
        />
      }
    >
      <div className="col-span-2">
        <Select
          hideLabel
          label="Kind of target"
          value={target.kind}
          options={kinds}
          onChange={takePreset}
          testId="target-kind"
        />
      </div>
      <div className="col-span-2">
        {lined ? (
          <Slider
            label="H-alpha, other lines with it"
            unit="R"
            value={lines.ha}
            {...dragged("LinesRayleigh", "ha", [0.5, 3000])}
            step={1}
            log
            show={`${Number(lines.ha.toPrecision(3))} R`}
            hint={
              near
                ? `${FAINTNESS_LABELS[near.faintness]} for its kind · [O III] ${Number(lines.oiii.toPrecision(2))} R`
                : undefined
            }
            testId="target-brightness"
            onChange={(ha) =>
              change((s) => {
                const l = s.target.lines_rayleigh;
                const f = ha / l.ha;
                for (const k of ["nii", "oiii", "sii", "hb"] as const) l[k] = Number((l[k] * f).toPrecision(4));
                l.ha = ha;
              })
            }
          />
        ) : (
          <Slider
            label="Continuum"
            unit="mag"
            value={target.continuum?.v_mag_arcsec2 ?? 23}
            {...dragged("Continuum", "v_mag_arcsec2", [17, 28])}
            step={0.1}
            show={`${mag(target.continuum?.v_mag_arcsec2)} mag`}
            testId="target-brightness"
            onChange={(v) =>
              change(
                (s) =>
                  void (s.target.continuum = {
                    temperature_k: s.target.continuum?.temperature_k ?? 6000,
                    v_mag_arcsec2: v,
                  }),
              )
            }
          />
        )}
      </div>
    </Card>
  );
}

function ClockCard({ scenario, change }: Props) {
  const goal = scenario.goal_snr ?? 20;
  const detail = scenario.detail_arcsec ?? 5;
  return (
    <Card title="Clock and goal">
      <div className="col-span-2">
        <Slider
          label="Time for each path"
          unit="h"
          value={scenario.total_s / 3600}
          {...dragged("Scenario", "total_s", [0.25, 60], 1 / 3600)}
          step={0.25}
          log
          show={typedClock(scenario.total_s)}
          testId="hours"
          onChange={(h, typed) =>
            change((s) => void (s.total_s = typed ? Math.round(h * 36_000) / 10 : Math.round(h * 60) * 60))
          }
        />
      </div>
      <Slider
        label="Goal SNR"
        value={goal}
        {...dragged("Scenario", "goal_snr", [2, 100])}
        step={1}
        show={String(goal)}
        hint={goal < 8 ? "faintly seen" : goal < 15 ? "plain to see" : goal < 35 ? "clean" : "very smooth"}
        onChange={(v) => change((s) => void (s.goal_snr = v))}
      />
      <Slider
        label="On a square of"
        unit="″"
        value={detail}
        {...dragged("Scenario", "detail_arcsec", [1, 60])}
        step={1}
        log
        show={`${Number(detail.toPrecision(3))}″`}
        hint="the detail judged"
        onChange={(v) => change((s) => void (s.detail_arcsec = v))}
      />
    </Card>
  );
}
