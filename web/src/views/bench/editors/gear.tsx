import { current } from "immer";
import { Plus, Trash2 } from "lucide-react";
import type { Contender, Library } from "@/api/client";
import { Button, IconButton } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { followName, followWidth } from "@/parts/followName";
import { fixed, percent } from "@/parts/format";
import { range, usual } from "@/parts/range";
import { same } from "@/parts/same";
import { groupOf } from "@/parts/shelfOptions";
import { FollowingFields } from "./following";
import { followedPrice, pricesOf } from "./price";
import { type Inner, Title, wrongAt } from "./shared";

const FILTER_GROUPS: Record<string, string> = {
  broad: "Broad",
  light_pollution: "Light pollution",
  multi_band: "Several bands",
  single_line: "One line",
  lrgb: "L-R-G-B",
};

export function OpticsEditor({ contender, library, edit, errors, index, scenario, change }: Inner) {
  const o = contender.optics;
  const known = library.optics.find((g) => same(g.optics, o));
  const at = `contenders[${index}].optics`;
  return (
    <>
      <Title>Telescope</Title>
      <Select
        label="From the shelf"
        value={known?.id ?? ""}
        options={library.optics.map((g) => ({ value: g.id, label: g.name, group: groupOf(g.mine ?? false) }))}
        onChange={(id) => {
          const g = library.optics.find((x) => x.id === id);
          if (!g) return;
          edit((c) => {
            c.price = followedPrice(c.price, known?.price, g.price, pricesOf(library, { ...c, optics: g.optics }));
            c.optics = structuredClone(g.optics);
          });
        }}
      />
      <div className="mt-2.5 grid grid-cols-2 gap-2.5">
        <NumberField
          label="Aperture"
          unit="mm"
          value={o.aperture_mm}
          {...range("Optics", "aperture_mm")}
          error={wrongAt(errors, `${at}.aperture_mm`)}
          onChange={(v) => edit((c) => void (c.optics.aperture_mm = v))}
          testId="aperture"
        />
        <NumberField
          label="Focal length"
          unit="mm"
          value={o.focal_length_mm}
          {...range("Optics", "focal_length_mm")}
          error={wrongAt(errors, `${at}.focal_length_mm`)}
          onChange={(v) => edit((c) => void (c.optics.focal_length_mm = v))}
        />
        <NumberField
          label="Obstruction"
          unit="mm"
          value={o.obstruction_mm ?? usual("Optics", "obstruction_mm")}
          {...range("Optics", "obstruction_mm")}
          error={wrongAt(errors, `${at}.obstruction_mm`)}
          onChange={(v) => edit((c) => void (c.optics.obstruction_mm = v))}
        />
        <NumberField
          label="Reducer"
          unit="×"
          value={o.reducer ?? usual("Optics", "reducer")}
          {...range("Optics", "reducer")}
          onChange={(v) => edit((c) => void (c.optics.reducer = v))}
        />
        <NumberField
          label="Light passed"
          unit="0–1"
          value={o.throughput ?? usual("Optics", "throughput")}
          {...range("Optics", "throughput")}
          onChange={(v) => edit((c) => void (c.optics.throughput = v))}
        />
        <NumberField
          label="Longest round sub"
          unit="s"
          value={o.longest_sub_s ?? 3600}
          {...range("Optics", "longest_sub_s")}
          onChange={(v) => edit((c) => void (c.optics.longest_sub_s = v))}
        />
        <NumberField
          label="Exit pupil, 0 if not known"
          unit="mm"
          value={o.exit_pupil_mm ?? 0}
          min={0}
          max={range("Optics", "exit_pupil_mm").max}
          error={wrongAt(errors, `${at}.exit_pupil_mm`)}
          onChange={(v) => edit((c) => void (c.optics.exit_pupil_mm = v > 0 ? v : null))}
          testId="exit-pupil"
        />
        <NumberField
          label="Price of the rig, no filters"
          value={contender.price ?? 0}
          {...range("Contender", "price")}
          onChange={(v) => edit((c) => void (c.price = v > 0 ? v : null))}
          testId="rig-price"
        />
      </div>
      <FollowingFields {...{ scenario, contender, edit, change }} />
    </>
  );
}

function filterOptions(library: Library, colour: boolean) {
  const fitting = library.filters.filter((f) => f.fits === "any" || f.fits === (colour ? "colour" : "mono"));
  return [
    { value: "none", label: "No filter" },
    ...fitting.map((f) => ({
      value: f.id,
      label: f.filter.name,
      group: f.mine ? groupOf(true) : FILTER_GROUPS[f.kind],
    })),
  ];
}

export function FilterEditor({ contender, library, edit, index, errors }: Inner) {
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
                      edit((c) => {
                        const exposure = c.exposures[i] as Contender["exposures"][number];
                        const was = exposure.filter?.name ?? "no filter";
                        c.name = followName(c.name, was, filter?.name ?? "no filter");
                        exposure.filter = structuredClone(filter);
                      });
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
                      ["centre_nm", "Centre", "nm"],
                      ["fwhm_nm", "Width", "nm"],
                      ["peak", "Peak", "0–1"],
                    ] as const
                  ).map(([field, label, unit]) => (
                    <NumberField
                      key={field}
                      label={label}
                      unit={unit}
                      value={b[field]}
                      {...range("Passband", field)}
                      testId={`band-${i}-${k}-${field}`}
                      error={wrongAt(errors, `contenders[${index}].exposures[${i}].filter.bands[${k}].${field}`)}
                      onChange={(v) =>
                        edit((c) => {
                          const filter = c.exposures[i]?.filter;
                          const band = filter?.bands?.[k];
                          if (!filter || !band) return;
                          if (field === "fwhm_nm") {
                            const is = followWidth(filter.name, band.fwhm_nm, v);
                            c.name = followName(c.name, filter.name, is);
                            filter.name = is;
                          }
                          band[field] = v;
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
            if (last) c.exposures.push(structuredClone(current(last)));
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

export function SensorEditor({ contender, library, edit, index, errors, scenario, answer }: Inner) {
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
        options={library.cameras.map((g) => ({ value: g.id, label: g.sensor.name, group: groupOf(g.mine ?? false) }))}
        testId="camera"
        onChange={(id) => {
          const g = library.cameras.find((x) => x.id === id);
          if (g)
            edit((c) => {
              c.price = followedPrice(c.price, known?.price, g.price, pricesOf(library, { ...c, sensor: g.sensor }));
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
          {...range("Contender", "gain")}
          error={wrongAt(errors, `${at}.gain`)}
          onChange={(v) => edit((c) => void (c.gain = v))}
        />
        {s.rise_above_ambient_k == null ? (
          <NumberField
            label="Sensor temperature"
            unit="°C"
            value={contender.sensor_temperature_c}
            {...range("Contender", "sensor_temperature_c")}
            onChange={(v) => edit((c) => void (c.sensor_temperature_c = v))}
            testId="sensor-temperature"
          />
        ) : (
          <div data-testid="sensor-follows-air">
            <div className="text-[0.85rem] text-muted">Sensor temperature</div>
            <div className="num flex h-8 items-center">
              {answer ? `${fixed(answer.sensor_temperature_c, 1)} °C` : "…"}
            </div>
            <div className="text-[0.82rem] text-muted">
              no cooling: air {scenario.sky.ambient_c ?? usual("Sky", "ambient_c")} °C + {s.rise_above_ambient_k} K
            </div>
          </div>
        )}
        <NumberField
          label="Pixel"
          unit="µm"
          value={s.pixel_um}
          {...range("Sensor", "pixel_um")}
          onChange={(v) => edit((c) => void (c.sensor.pixel_um = v))}
        />
      </div>
      {row && (
        <p className="mt-2 text-[0.86rem] text-muted">
          {row.e_per_adu} e-/ADU, read noise {row.read_noise_e} e-, full well {row.full_well_e} e-
        </p>
      )}
      {answer && (
        <p className="mt-1 text-[0.86rem] text-muted" data-testid="dark-current">
          Dark current {Number(answer.dark_e_per_s.toPrecision(2))} e-/s in a pixel at{" "}
          {fixed(answer.sensor_temperature_c, 1)} °C: {percent(answer.dark_share)} of the background
        </p>
      )}
    </>
  );
}
