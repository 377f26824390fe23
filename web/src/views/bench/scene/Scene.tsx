import type { Quantity } from "@/api/client";
import { Select } from "@/parts/controls/Select";
import { Slider } from "@/parts/controls/Slider";
import { mag } from "@/parts/format";
import { dragged, usual } from "@/parts/range";
import { ClockCard } from "./ClockCard";
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
export function Scene({ scenario, library, answer, change, quantity }: Props & { quantity: Quantity }) {
  return (
    <section aria-label="The scene" className="grid grid-cols-4 gap-2.5 max-lg:grid-cols-2 max-sm:grid-cols-1">
      <TargetCard {...{ scenario, library, answer, change, quantity }} />
      <SkyCard scenario={scenario} library={library} answer={answer} change={change} />
      <MoonCard scenario={scenario} library={library} answer={answer} change={change} />
      <ClockCard {...{ scenario, library, answer, change, quantity }} />
    </section>
  );
}

function TargetCard({ scenario, library, answer, change, quantity }: Props & { quantity: Quantity }) {
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
        s.target.knots_factor = null;
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
      <Parts {...{ scenario, answer, change, quantity }} />
    </Card>
  );
}

/** How bright the core and the outskirts are against the mean; in a galaxy's lines the bright spots are its H II regions. */
function Parts({ scenario, answer, change, quantity }: Omit<Props, "library"> & { quantity: Quantity }) {
  const { target } = scenario;
  const knots = answer?.knots_factor;
  // How bright each is in the light that is judged.
  const parts = answer?.judged.find((j) => j.quantity === quantity)?.parts;
  const bright = (part: string) => parts?.find((p) => p.part === part)?.brightness;
  const outskirts = target.outskirts_factor ?? usual("Target", "outskirts_factor");
  return (
    <>
      {knots == null ? (
        <Slider
          label="Core"
          value={target.peak_factor ?? usual("Target", "peak_factor")}
          {...dragged("Target", "peak_factor", [1, 2000])}
          step={1}
          log
          show={`× ${Number((target.peak_factor ?? 1).toPrecision(3))}`}
          hint={bright("core")}
          testId="core"
          onChange={(v) => change((s) => void (s.target.peak_factor = v))}
        />
      ) : (
        <Slider
          label="H II regions"
          value={knots}
          {...dragged("Target", "knots_factor", [1, 2000])}
          step={1}
          log
          show={`× ${Number(knots.toPrecision(3))}`}
          hint={bright("core")}
          testId="knots"
          onChange={(v) => change((s) => void (s.target.knots_factor = v))}
        />
      )}
      <Slider
        label="Outskirts"
        value={outskirts}
        {...dragged("Target", "outskirts_factor", [0.02, 1])}
        step={0.01}
        log
        show={`× ${Number(outskirts.toPrecision(2))}`}
        hint={bright("outskirts")}
        testId="outskirts"
        onChange={(v) => change((s) => void (s.target.outskirts_factor = v))}
      />
    </>
  );
}
