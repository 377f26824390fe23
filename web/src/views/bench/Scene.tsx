import { useQuery } from "@tanstack/react-query";
import { Popover, Switch } from "radix-ui";
import type { ReactNode } from "react";
import { api, type BenchAnswer, type Library, must, type Scenario } from "@/api/client";
import { clock, mag } from "@/parts/format";
import { Button, NumberField, Select, Slider } from "@/parts/ui";

type Change = (edit: (draft: Scenario) => void) => void;
type Props = { scenario: Scenario; library: Library; answer: BenchAnswer | undefined; change: Change };

const FAINTNESS_LABELS: Record<string, string> = {
  very_faint: "very faint",
  faint: "faint",
  moderate: "moderate",
  bright: "bright",
  very_bright: "very bright",
};

const sameLamps = (a: Record<string, number | undefined>, b: Record<string, number | undefined>) =>
  [...new Set([...Object.keys(a), ...Object.keys(b)])].every((k) => Math.abs((a[k] ?? 0) - (b[k] ?? 0)) < 1e-6);

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

function Card({ title, side, children }: { title: ReactNode; side?: ReactNode; children: ReactNode }) {
  return (
    <div className="min-w-0 rounded-xl bg-surface px-3.5 pt-2 pb-2.5">
      <div className="mb-1 flex h-7 items-center justify-between gap-2">
        <h2 className="text-[1.02rem] font-medium">{title}</h2>
        {side}
      </div>
      <div className="grid grid-cols-2 gap-x-4 gap-y-1.5">{children}</div>
    </div>
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
            value={lines.ha}
            min={0.5}
            max={3000}
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
            value={target.continuum?.v_mag_arcsec2 ?? 23}
            min={17}
            max={28}
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

function SkyCard({ scenario, library, change }: Props) {
  const { sky } = scenario;
  const bortle = library.bortle.find((b) => sky.zenith_v_mag >= b.brightest_v_mag) ?? library.bortle.at(-1);
  const mix = library.lamp_mixes.find((m) => sameLamps(m.lamps, sky.lamps));
  return (
    <Card
      title="Sky"
      side={
        <Popover.Root>
          <Popover.Trigger className="rounded px-1.5 text-[0.86rem] text-muted underline decoration-dotted underline-offset-3 hover:text-ink">
            more
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              sideOffset={6}
              collisionPadding={10}
              className="rise z-30 max-h-(--radix-popover-content-available-height) w-[min(22rem,94vw)] overflow-y-auto rounded-xl border border-edge bg-surface p-4 shadow-2xl shadow-black/50"
              aria-label="More about the sky"
            >
              <div className="grid grid-cols-2 gap-2.5">
                <SitePick change={change} />
                <div className="col-span-2">
                  <Select
                    label="Bortle class (coarse, and maps of it are years old)"
                    value={bortle ? String(bortle.class) : ""}
                    options={library.bortle.map((b) => ({
                      value: String(b.class),
                      label: `Class ${b.class}`,
                      note: `${b.brightest_v_mag.toFixed(1)}–${b.darkest_v_mag.toFixed(1)}`,
                    }))}
                    testId="bortle"
                    onChange={(v) =>
                      change(
                        (s) =>
                          void (s.sky.zenith_v_mag =
                            library.bortle.find((b) => String(b.class) === v)?.centre_v_mag ?? s.sky.zenith_v_mag),
                      )
                    }
                  />
                </div>
                <NumberField
                  label="Meter at the zenith"
                  unit="mag/″²"
                  value={sky.zenith_v_mag}
                  min={14}
                  max={22.5}
                  onChange={(v) => change((s) => void (s.sky.zenith_v_mag = v))}
                />
                {sky.toward_target_v_mag == null ? (
                  <div className="self-end">
                    <Button onClick={() => change((s) => void (s.sky.toward_target_v_mag = s.sky.zenith_v_mag))}>
                      Meter at the target
                    </Button>
                  </div>
                ) : (
                  <NumberField
                    label="Meter at the target"
                    unit="mag/″²"
                    value={sky.toward_target_v_mag}
                    min={12}
                    max={22.5}
                    onChange={(v) => change((s) => void (s.sky.toward_target_v_mag = v))}
                  />
                )}
                <NumberField
                  label="Natural sky"
                  unit="mag/″²"
                  value={sky.natural_v_mag ?? 21.9}
                  min={20.5}
                  max={22.5}
                  onChange={(v) => change((s) => void (s.sky.natural_v_mag = v))}
                />
                <NumberField
                  label="Air temperature"
                  unit="°C"
                  value={sky.ambient_c ?? 10}
                  min={-60}
                  max={60}
                  onChange={(v) => change((s) => void (s.sky.ambient_c = v))}
                />
                <NumberField
                  label="Height of the sun"
                  unit="°"
                  value={sky.sun_altitude_deg ?? -40}
                  min={-90}
                  max={90}
                  onChange={(v) => change((s) => void (s.sky.sun_altitude_deg = v))}
                />
                {sky.toward_target_v_mag != null && (
                  <Button
                    look="quiet"
                    className="self-end"
                    onClick={() => change((s) => void (s.sky.toward_target_v_mag = null))}
                  >
                    Zenith only
                  </Button>
                )}
                <LampShares scenario={scenario} change={change} />
              </div>
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      }
    >
      <Slider
        label="Zenith"
        value={sky.zenith_v_mag}
        min={16.5}
        max={22}
        step={0.05}
        show={mag(sky.zenith_v_mag)}
        hint={
          bortle
            ? `Bortle ${bortle.class}: ${bortle.brightest_v_mag.toFixed(1)}–${bortle.darkest_v_mag.toFixed(1)}`
            : undefined
        }
        track="linear-gradient(90deg, #d98a55, #7d4a3a 35%, #33222f 70%, #10121f)"
        testId="sky"
        onChange={(v) => change((s) => void (s.sky.zenith_v_mag = v))}
      />
      <Slider
        label="Target height"
        value={sky.target_altitude_deg}
        min={10}
        max={90}
        step={1}
        show={`${sky.target_altitude_deg}°`}
        hint={sky.target_altitude_deg < 20 ? "low: most stop near 20°" : "above the horizon"}
        onChange={(v) => change((s) => void (s.sky.target_altitude_deg = v))}
      />
      <div className="col-span-2">
        <Select
          hideLabel
          label="Lamps"
          value={mix?.name ?? ""}
          placeholder="Your own lamp mix"
          options={library.lamp_mixes.map((m) => ({ value: m.name, label: m.name }))}
          testId="lamps"
          onChange={(name) =>
            change((s) => {
              const chosen = library.lamp_mixes.find((m) => m.name === name);
              if (chosen) s.sky.lamps = { ...chosen.lamps };
            })
          }
        />
      </div>
    </Card>
  );
}

/** A site of the shelf, taken over into the sky as it stands there now. */
function SitePick({ change }: Pick<Props, "change">) {
  const shelf = useQuery({ queryKey: ["shelf", false], queryFn: () => must(api.GET("/api/v1/shelf")) });
  const sites = (shelf.data ?? []).flatMap((s) =>
    s.entry.thing.kind === "site" ? [{ id: s.id, name: s.entry.name, site: s.entry.thing.item }] : [],
  );
  const take = (id: string) =>
    change((s) => {
      const site = sites.find((x) => x.id === id)?.site;
      if (!site) return;
      s.sky.zenith_v_mag = site.zenith_v_mag;
      s.sky.site_height_m = site.height_m;
      s.sky.lamps = { ...site.lamps };
      s.sky.k_v = site.k_v ?? null;
      s.sky.toward_target_v_mag = null;
    });
  return (
    <div className="col-span-2">
      <Select
        label="Take a site from the shelf"
        value=""
        placeholder="Brightness, lamps, height, air…"
        options={sites.map((x) => ({ value: x.id, label: x.name, note: x.site.zenith_v_mag.toFixed(2) }))}
        testId="site"
        onChange={take}
      />
    </div>
  );
}

const LAMPS: [string, string][] = [
  ["led_3000k", "LED 3000 K"],
  ["led_4000k", "LED 4000 K"],
  ["high_pressure_sodium", "Sodium, high p."],
  ["low_pressure_sodium", "Sodium, low p."],
  ["mercury", "Mercury"],
  ["metal_halide", "Metal halide"],
];

/** One lamp's share changes; the others give or take in proportion, so that they always sum to 1. */
function LampShares({ scenario, change }: Pick<Props, "scenario" | "change">) {
  const lamps: Record<string, number> = { ...scenario.sky.lamps };
  const set = (key: string, value: number) =>
    change((s) => {
      const rest = Object.entries(lamps).filter(([k]) => k !== key);
      const sum = rest.reduce((a, [, v]) => a + v, 0);
      const other = key === "led_4000k" ? "led_3000k" : "led_4000k";
      const scaled: [string, number][] =
        sum > 0 ? rest.map(([k, v]) => [k, (v * (1 - value)) / sum]) : [[other, 1 - value]];
      s.sky.lamps = Object.fromEntries([...scaled, [key, value] as [string, number]].filter(([, v]) => v > 1e-6));
    });
  return LAMPS.map(([key, label]) => (
    <NumberField
      key={key}
      label={label}
      unit="%"
      value={Math.round((lamps[key] ?? 0) * 1000) / 10}
      min={0}
      max={100}
      onChange={(v) => set(key, v / 100)}
    />
  ));
}

const PHASES: [number, string][] = [
  [12, "full"],
  [70, "gibbous"],
  [110, "half"],
  [168, "crescent"],
  [181, "new"],
];

function MoonCard({ scenario, answer, change }: Props) {
  const { moon } = scenario.sky;
  const brightness = answer?.evaluation.sky.moon_v_mag;
  return (
    <Card
      title="Moon"
      side={
        <Switch.Root
          checked={!!moon}
          aria-label="Moon in the sky"
          onCheckedChange={(on) =>
            change((s) => void (s.sky.moon = on ? { phase_angle_deg: 90, altitude_deg: 40, separation_deg: 70 } : null))
          }
          className="relative h-5 w-9 rounded-full border border-edge-strong bg-well data-[state=checked]:bg-salt-deep"
        >
          <Switch.Thumb className="block size-3.5 translate-x-0.5 rounded-full bg-ink transition-transform data-[state=checked]:translate-x-[1.1rem]" />
        </Switch.Root>
      }
    >
      {moon ? (
        <>
          <div className="col-span-2">
            <Slider
              label="Phase angle"
              value={Math.abs(moon.phase_angle_deg)}
              min={0}
              max={180}
              step={1}
              show={`${Math.abs(moon.phase_angle_deg)}° · ${PHASES.find(([to]) => Math.abs(moon.phase_angle_deg) < to)?.[1]}`}
              onChange={(v) => change((s) => void (s.sky.moon && (s.sky.moon.phase_angle_deg = v)))}
            />
          </div>
          <Slider
            label="Height"
            value={moon.altitude_deg}
            min={-5}
            max={90}
            step={1}
            show={`${moon.altitude_deg}°`}
            hint={brightness == null ? "below the horizon" : `adds ${mag(brightness)}`}
            onChange={(v) => change((s) => void (s.sky.moon && (s.sky.moon.altitude_deg = v)))}
          />
          <Slider
            label="From target"
            value={moon.separation_deg}
            min={5}
            max={180}
            step={1}
            show={`${moon.separation_deg}°`}
            hint={brightness == null ? "" : "mag/arcsec²"}
            onChange={(v) => change((s) => void (s.sky.moon && (s.sky.moon.separation_deg = v)))}
          />
        </>
      ) : (
        <>
          <p className="col-span-2 leading-5 text-muted">
            Switch it on to see what it costs each filter: the blue lines suffer first.
          </p>
          <div className="col-span-2">
            <Slider
              label="Sun, for twilight"
              value={scenario.sky.sun_altitude_deg ?? -40}
              min={-40}
              max={-5}
              step={0.5}
              show={`${scenario.sky.sun_altitude_deg ?? -40}°`}
              onChange={(v) => change((s) => void (s.sky.sun_altitude_deg = v))}
            />
          </div>
        </>
      )}
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
          value={scenario.total_s / 3600}
          min={0.25}
          max={60}
          step={0.25}
          log
          show={clock(scenario.total_s)}
          testId="hours"
          onChange={(h) => change((s) => void (s.total_s = Math.round(h * 60) * 60))}
        />
      </div>
      <Slider
        label="Goal SNR"
        value={goal}
        min={2}
        max={100}
        step={1}
        show={String(goal)}
        hint={goal < 8 ? "faintly seen" : goal < 15 ? "plain to see" : goal < 35 ? "clean" : "very smooth"}
        onChange={(v) => change((s) => void (s.goal_snr = v))}
      />
      <Slider
        label="On a square of"
        value={detail}
        min={1}
        max={60}
        step={1}
        log
        show={`${Number(detail.toPrecision(3))}″`}
        hint="the detail judged"
        onChange={(v) => change((s) => void (s.detail_arcsec = v))}
      />
    </Card>
  );
}
