import { Plus, Trash2 } from "lucide-react";
import type { Contender, FieldError, Library, Scenario } from "@/api/client";
import { choose, uncertain } from "@/parts/choices";
import { EmissionFields } from "@/parts/EmissionFields";
import { same } from "@/parts/same";
import { Button, IconButton, NumberField, Select, Slider } from "@/parts/ui";

export const STAGES = ["target", "air", "optics", "filter", "sensor", "sub"] as const;
export type Stage = (typeof STAGES)[number];

type Change = (edit: (draft: Scenario) => void) => void;
type Props = {
  stage: Stage;
  index: number;
  scenario: Scenario;
  library: Library;
  change: Change;
  errors: readonly FieldError[];
};

const FILTER_GROUPS: Record<string, string> = {
  broad: "Broad",
  light_pollution: "Light pollution",
  multi_band: "Several bands",
  single_line: "One line",
  lrgb: "L-R-G-B",
};

export function StageEditor(p: Props) {
  const contender = p.scenario.contenders[p.index];
  if (!contender) return null;
  const props = {
    ...p,
    contender,
    edit: (f: (c: Contender) => void) => p.change((s) => f(s.contenders[p.index] as Contender)),
  };
  switch (p.stage) {
    case "target":
      return <TargetEditor {...props} />;
    case "air":
      return <AirEditor {...props} />;
    case "optics":
      return <OpticsEditor {...props} />;
    case "filter":
      return <FilterEditor {...props} />;
    case "sensor":
      return <SensorEditor {...props} />;
    case "sub":
      return <SubEditor {...props} />;
  }
}

type Inner = Props & { contender: Contender; edit: (f: (c: Contender) => void) => void };

const wrongAt = (errors: readonly FieldError[], path: string) => errors.find((e) => e.path === path)?.message;

function Title({ children, note }: { children: string; note?: string }) {
  return (
    <div className="mb-2.5">
      <h3 className="font-medium">{children}</h3>
      {note && <p className="text-[0.86rem] text-muted">{note}</p>}
    </div>
  );
}

function TargetEditor({ scenario, change, errors }: Inner) {
  return (
    <>
      <Title note="Shared by all paths. Outside the atmosphere, mean over the part of interest.">
        What the target emits
      </Title>
      <div className="grid grid-cols-2 gap-2.5">
        <EmissionFields
          target={scenario.target}
          edit={(f) => change((s) => f(s.target))}
          wrong={(path) => wrongAt(errors, path)}
        />
        <NumberField
          label="Brightness known to"
          unit="± %"
          value={(scenario.choices?.uncertainty?.target_relative ?? 0.2) * 100}
          min={0}
          max={200}
          onChange={(v) => change((s) => uncertain(s, { target_relative: v / 100 }))}
          testId="target-uncertainty"
        />
      </div>
    </>
  );
}

function AirEditor({ scenario, change, errors }: Inner) {
  const { sky } = scenario;
  return (
    <>
      <Title note="Shared by all paths.">The air</Title>
      <div className="grid grid-cols-2 gap-2.5">
        <NumberField
          label="Height of the target"
          unit="°"
          value={sky.target_altitude_deg}
          min={1}
          max={90}
          error={wrongAt(errors, "sky.target_altitude_deg")}
          onChange={(v) => change((s) => void (s.sky.target_altitude_deg = v))}
        />
        <NumberField
          label="Site above the sea"
          unit="m"
          value={sky.site_height_m ?? 0}
          min={-450}
          max={6000}
          onChange={(v) => change((s) => void (s.sky.site_height_m = v))}
        />
        <NumberField
          label="Sky known to"
          unit="± mag"
          value={scenario.choices?.uncertainty?.sky_mag ?? 0.15}
          min={0}
          max={2}
          onChange={(v) => change((s) => uncertain(s, { sky_mag: v }))}
        />
        <NumberField
          label="Sun"
          unit="°"
          value={sky.sun_altitude_deg ?? -40}
          min={-90}
          max={90}
          onChange={(v) => change((s) => void (s.sky.sun_altitude_deg = v))}
        />
        {sky.k_v == null ? (
          <div className="self-end">
            <Button onClick={() => change((s) => void (s.sky.k_v = 0.25))}>Measured extinction</Button>
          </div>
        ) : (
          <NumberField
            label="Extinction, V"
            unit="mag"
            value={sky.k_v}
            min={0.05}
            max={2}
            onChange={(v) => change((s) => void (s.sky.k_v = v))}
          />
        )}
        {sky.k_v != null && (
          <Button look="quiet" onClick={() => change((s) => void (s.sky.k_v = null))}>
            A clear night's instead
          </Button>
        )}
      </div>
    </>
  );
}

function OpticsEditor({ contender, library, edit, errors, index }: Inner) {
  const o = contender.optics;
  const known = library.optics.find((g) => same(g.optics, o));
  const at = `contenders[${index}].optics`;
  return (
    <>
      <Title>Telescope</Title>
      <Select
        label="From the shelf"
        value={known?.id ?? ""}
        options={library.optics.map((g) => ({ value: g.id, label: g.name }))}
        onChange={(id) => {
          const g = library.optics.find((x) => x.id === id);
          if (g) edit((c) => void (c.optics = structuredClone(g.optics)));
        }}
      />
      <div className="mt-2.5 grid grid-cols-2 gap-2.5">
        <NumberField
          label="Aperture"
          unit="mm"
          value={o.aperture_mm}
          min={5}
          max={20000}
          error={wrongAt(errors, `${at}.aperture_mm`)}
          onChange={(v) => edit((c) => void (c.optics.aperture_mm = v))}
          testId="aperture"
        />
        <NumberField
          label="Focal length"
          unit="mm"
          value={o.focal_length_mm}
          min={10}
          max={200000}
          error={wrongAt(errors, `${at}.focal_length_mm`)}
          onChange={(v) => edit((c) => void (c.optics.focal_length_mm = v))}
        />
        <NumberField
          label="Obstruction"
          unit="mm"
          value={o.obstruction_mm ?? 0}
          min={0}
          error={wrongAt(errors, `${at}.obstruction_mm`)}
          onChange={(v) => edit((c) => void (c.optics.obstruction_mm = v))}
        />
        <NumberField
          label="Reducer"
          unit="×"
          value={o.reducer ?? 1}
          min={0.1}
          max={5}
          onChange={(v) => edit((c) => void (c.optics.reducer = v))}
        />
        <NumberField
          label="Light passed"
          unit="0–1"
          value={o.throughput ?? 0.9}
          min={0.01}
          max={1}
          onChange={(v) => edit((c) => void (c.optics.throughput = v))}
        />
        <NumberField
          label="Longest round sub"
          unit="s"
          value={o.longest_sub_s ?? 3600}
          min={0.001}
          max={7200}
          onChange={(v) => edit((c) => void (c.optics.longest_sub_s = v))}
        />
        <NumberField
          label="Price of the rig, no filters"
          value={contender.price ?? 0}
          min={0}
          max={1e7}
          onChange={(v) => edit((c) => void (c.price = v > 0 ? v : null))}
          testId="rig-price"
        />
      </div>
    </>
  );
}

function filterOptions(library: Library, colour: boolean) {
  const fitting = library.filters.filter((f) => f.fits === "any" || f.fits === (colour ? "colour" : "mono"));
  return [
    { value: "none", label: "No filter" },
    ...fitting.map((f) => ({ value: f.id, label: f.filter.name, group: FILTER_GROUPS[f.kind] })),
  ];
}

function FilterEditor({ contender, library, edit, index, errors }: Inner) {
  const options = filterOptions(library, !!contender.sensor.cfa);
  return (
    <>
      <Title note="Each filter takes its share of the clock.">
        {contender.exposures.length > 1 ? "Filters" : "Filter"}
      </Title>
      <div className="flex flex-col gap-3">
        {contender.exposures.map((e, i) => {
          const id = e.filter === null ? "none" : (library.filters.find((f) => same(f.filter, e.filter))?.id ?? "");
          const bands = e.filter?.bands;
          return (
            <div key={i} className="rounded-lg bg-well p-2.5">
              <div className="flex items-end gap-1">
                <div className="min-w-0 grow">
                  <Select
                    label={contender.exposures.length > 1 ? `Filter ${i + 1}` : "From the shelf"}
                    value={id}
                    placeholder={e.filter?.name ?? "Your own"}
                    options={options}
                    testId={`filter-${i}`}
                    onChange={(chosen) => {
                      const filter =
                        chosen === "none" ? null : (library.filters.find((f) => f.id === chosen)?.filter ?? null);
                      edit(
                        (c) =>
                          void ((c.exposures[i] as Contender["exposures"][number]).filter = structuredClone(filter)),
                      );
                    }}
                  />
                </div>
                {contender.exposures.length > 1 && (
                  <IconButton
                    label={`Remove filter ${i + 1}`}
                    onClick={() =>
                      edit((c) => {
                        c.exposures.splice(i, 1);
                        evenShares(c);
                      })
                    }
                  >
                    <Trash2 size={15} aria-hidden />
                  </IconButton>
                )}
              </div>
              {bands?.map((b, k) => (
                <div key={k} className="mt-2 grid grid-cols-3 gap-2">
                  {(
                    [
                      ["centre_nm", "Centre", "nm", 300, 1100],
                      ["fwhm_nm", "Width", "nm", 0.3, 800],
                      ["peak", "Peak", "0–1", 0.001, 1],
                    ] as const
                  ).map(([field, label, unit, min, max]) => (
                    <NumberField
                      key={field}
                      label={label}
                      unit={unit}
                      value={b[field]}
                      min={min}
                      max={max}
                      testId={`band-${i}-${k}-${field}`}
                      error={wrongAt(errors, `contenders[${index}].exposures[${i}].filter.bands[${k}].${field}`)}
                      onChange={(v) =>
                        edit((c) => {
                          const band = c.exposures[i]?.filter?.bands?.[k];
                          if (band) band[field] = v;
                        })
                      }
                    />
                  ))}
                </div>
              ))}
              {e.filter?.curve && (
                <p className="mt-1.5 text-[0.86rem] text-muted">A sampled curve of {e.filter.curve.length} points.</p>
              )}
            </div>
          );
        })}
      </div>
      <Button
        look="quiet"
        className="mt-2"
        disabled={contender.exposures.length >= 12}
        onClick={() =>
          edit((c) => {
            const last = c.exposures.at(-1);
            if (last) c.exposures.push(structuredClone(last));
            evenShares(c);
          })
        }
      >
        <Plus size={14} aria-hidden /> Another filter in this path
      </Button>
    </>
  );
}

function evenShares(c: Contender) {
  for (const e of c.exposures) e.share = 1 / c.exposures.length;
}

function SensorEditor({ contender, library, edit, index, errors }: Inner) {
  const s = contender.sensor;
  const known = library.cameras.find((g) => same(g.sensor, s));
  const row = s.gains.find((g) => g.setting === contender.gain);
  const at = `contenders[${index}]`;
  return (
    <>
      <Title>Camera</Title>
      <Select
        label="From the shelf"
        value={known?.id ?? ""}
        placeholder={s.name}
        options={library.cameras.map((g) => ({ value: g.id, label: g.sensor.name }))}
        testId="camera"
        onChange={(id) => {
          const g = library.cameras.find((x) => x.id === id);
          if (g)
            edit((c) => {
              c.sensor = structuredClone(g.sensor);
              c.gain = g.usual_gain;
              c.sensor_temperature_c = g.usual_temperature_c;
            });
        }}
      />
      <div className="mt-2.5 grid grid-cols-2 gap-2.5">
        <Select
          label="Gain setting"
          value={row ? String(contender.gain) : ""}
          placeholder={`${contender.gain}, between settings`}
          options={s.gains.map((g) => ({
            value: String(g.setting),
            label: String(g.setting),
            note: `${g.read_noise_e} e- · ${Math.round(g.full_well_e / 100) / 10} ke-`,
          }))}
          testId="gain"
          onChange={(v) => edit((c) => void (c.gain = Number(v)))}
        />
        <NumberField
          label="or any setting"
          value={contender.gain}
          min={0}
          max={1e6}
          error={wrongAt(errors, `${at}.gain`)}
          onChange={(v) => edit((c) => void (c.gain = v))}
        />
        <NumberField
          label="Sensor temperature"
          unit="°C"
          value={contender.sensor_temperature_c}
          min={-60}
          max={60}
          onChange={(v) => edit((c) => void (c.sensor_temperature_c = v))}
        />
        <NumberField
          label="Pixel"
          unit="µm"
          value={s.pixel_um}
          min={0.5}
          max={100}
          onChange={(v) => edit((c) => void (c.sensor.pixel_um = v))}
        />
      </div>
      {row && (
        <p className="mt-2 text-[0.86rem] text-muted">
          {row.e_per_adu} e-/ADU, read noise {row.read_noise_e} e-, full well {row.full_well_e} e-
        </p>
      )}
    </>
  );
}

function SubEditor({ scenario, change, contender, edit, index, errors }: Inner) {
  const several = contender.exposures.length > 1;
  const c = scenario.choices;
  return (
    <>
      <Title note="A sub is one exposure; each costs its overhead as well.">Subs and clock</Title>
      <div className="flex flex-col gap-3">
        {contender.exposures.map((e, i) => (
          <div key={i} className="rounded-lg bg-well p-2.5">
            {several && <div className="mb-1 truncate text-[0.9rem]">{e.filter?.name ?? "No filter"}</div>}
            <Slider
              label="Sub"
              value={e.sub_s}
              min={0.5}
              max={1800}
              step={1}
              log
              show={`${e.sub_s} s`}
              testId={`sub-${i}`}
              onChange={(v) =>
                edit(
                  (c) => void ((c.exposures[i] as Contender["exposures"][number]).sub_s = v >= 10 ? Math.round(v) : v),
                )
              }
            />
            {several && (
              <NumberField
                label="Share of the clock"
                unit="0–1"
                value={e.share}
                min={0}
                max={1}
                error={i === 0 ? wrongAt(errors, `contenders[${index}].exposures`) : undefined}
                onChange={(v) => edit((c) => setShare(c, i, v))}
              />
            )}
            {e.test_frame ? (
              <div className="mt-2 grid grid-cols-2 gap-2.5">
                <NumberField
                  label="Test frame"
                  unit="s"
                  value={e.test_frame.sub_s}
                  min={0.001}
                  max={7200}
                  onChange={(v) => edit((c) => setTest(c, i, { sub_s: v }))}
                />
                <NumberField
                  label="Its background"
                  unit="ADU"
                  value={e.test_frame.background_adu}
                  min={contender.sensor.offset_adu}
                  max={2 ** contender.sensor.bits - 1}
                  error={wrongAt(errors, `contenders[${index}].exposures[${i}].test_frame.background_adu`)}
                  onChange={(v) => edit((c) => setTest(c, i, { background_adu: v }))}
                  testId={`test-adu-${i}`}
                />
                <Button look="quiet" onClick={() => edit((c) => void (exposureOf(c, i).test_frame = null))}>
                  Forget the test frame
                </Button>
              </div>
            ) : (
              <Button
                look="quiet"
                className="mt-1"
                onClick={() =>
                  edit(
                    (c) =>
                      void (exposureOf(c, i).test_frame = {
                        sub_s: e.sub_s,
                        background_adu: contender.sensor.offset_adu + 500,
                      }),
                  )
                }
              >
                I have a test frame
              </Button>
            )}
          </div>
        ))}
      </div>
      <div className="mt-2.5 grid grid-cols-2 gap-2.5">
        <NumberField
          label="Overhead a sub"
          unit="s"
          value={contender.overhead_s_per_sub ?? 0}
          min={0}
          max={3600}
          onChange={(v) => edit((c) => void (c.overhead_s_per_sub = v))}
        />
        <NumberField
          label="Subs spoilt"
          unit="per h"
          value={contender.loss_per_hour ?? 0}
          min={0}
          max={60}
          onChange={(v) => edit((c) => void (c.loss_per_hour = v))}
        />
        <NumberField
          label="Stars may clip above, all paths"
          unit="V mag"
          value={c?.star_clips_v_mag ?? 13}
          min={-2}
          max={20}
          onChange={(v) => change((s) => choose(s, { star_clips_v_mag: v }))}
        />
        <NumberField
          label="Core may fill, all paths"
          unit="% of full"
          value={(c?.core_fill ?? 1) * 100}
          min={1}
          max={10000}
          onChange={(v) => change((s) => choose(s, { core_fill: v / 100 }))}
        />
      </div>
    </>
  );
}

const exposureOf = (c: Contender, i: number) => c.exposures[i] as Contender["exposures"][number];

function setTest(c: Contender, i: number, some: { sub_s?: number; background_adu?: number }) {
  const e = exposureOf(c, i);
  if (e.test_frame) e.test_frame = { ...e.test_frame, ...some };
}

/** One share changes; the others give or take in proportion, so that they always sum to 1. */
function setShare(c: Contender, at: number, value: number) {
  const rest = c.exposures.reduce((sum, e, i) => (i === at ? sum : sum + e.share), 0);
  c.exposures.forEach((e, i) => {
    e.share = i === at ? value : rest > 0 ? (e.share * (1 - value)) / rest : (1 - value) / (c.exposures.length - 1);
  });
}
