import { Popover } from "radix-ui";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { Slider } from "@/parts/controls/Slider";
import { mag } from "@/parts/format";
import { dragged, range, usual } from "@/parts/range";
import { measuredThere } from "../measuredThere";
import { LampShares } from "./LampShares";
import { Card, type SceneProps as Props } from "./SceneCard";
import { SitePick } from "./SitePick";

const sameLamps = (a: Record<string, number | undefined>, b: Record<string, number | undefined>) =>
  [...new Set([...Object.keys(a), ...Object.keys(b)])].every((k) => Math.abs((a[k] ?? 0) - (b[k] ?? 0)) < 1e-6);

/** What the sky is made of: brightness, height, lamps, a site of the shelf, what was measured. */
export function SkyCard({ scenario, library, change }: Props) {
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
                <SitePick change={change} site={sky.site ?? null} />
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
                  {...range("Sky", "zenith_v_mag")}
                  onChange={(v) => change((s) => void (s.sky.zenith_v_mag = v))}
                />
                {sky.toward_target_v_mag == null ? (
                  <div className="self-end">
                    <Button onClick={() => change((s) => measuredThere(s.sky, s.sky.zenith_v_mag))}>
                      Meter at the target
                    </Button>
                  </div>
                ) : (
                  <NumberField
                    label={`At the target, ${Math.round(sky.toward_target_altitude_deg ?? sky.target_altitude_deg)}° high`}
                    unit="mag/″²"
                    value={sky.toward_target_v_mag}
                    {...range("Sky", "toward_target_v_mag")}
                    onChange={(v) => change((s) => measuredThere(s.sky, v))}
                  />
                )}
                <NumberField
                  label="Natural sky"
                  unit="mag/″²"
                  value={sky.natural_v_mag ?? usual("Sky", "natural_v_mag")}
                  {...range("Sky", "natural_v_mag")}
                  onChange={(v) => change((s) => void (s.sky.natural_v_mag = v))}
                />
                <NumberField
                  label="Air temperature"
                  unit="°C"
                  value={sky.ambient_c ?? usual("Sky", "ambient_c")}
                  {...range("Sky", "ambient_c")}
                  onChange={(v) => change((s) => void (s.sky.ambient_c = v))}
                />
                <NumberField
                  label="Height of the sun"
                  unit="°"
                  value={sky.sun_altitude_deg ?? usual("Sky", "sun_altitude_deg")}
                  {...range("Sky", "sun_altitude_deg")}
                  onChange={(v) => change((s) => void (s.sky.sun_altitude_deg = v))}
                />
                {(sky.glow?.length ?? 0) > 0 && (
                  <NumberField
                    label="Target's azimuth (towns glow)"
                    unit="°"
                    value={sky.target_azimuth_deg ?? 180}
                    {...range("Sky", "target_azimuth_deg")}
                    testId="target-azimuth"
                    onChange={(v) => change((s) => void (s.sky.target_azimuth_deg = v))}
                  />
                )}
                {sky.toward_target_v_mag != null && (
                  <Button look="quiet" className="self-end" onClick={() => change((s) => measuredThere(s.sky, null))}>
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
        unit="mag/″²"
        value={sky.zenith_v_mag}
        {...dragged("Sky", "zenith_v_mag", [16.5, 22])}
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
        unit="°"
        value={sky.target_altitude_deg}
        {...dragged("Sky", "target_altitude_deg", [10, 90])}
        step={1}
        show={`${Math.round(sky.target_altitude_deg)}°`}
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
      <div className="col-span-2">
        <Slider
          label="Seeing, stars at the zenith"
          unit="″"
          value={scenario.seeing_fwhm_arcsec ?? usual("Scenario", "seeing_fwhm_arcsec")}
          {...dragged("Scenario", "seeing_fwhm_arcsec", [1, 6])}
          step={0.1}
          show={`${scenario.seeing_fwhm_arcsec ?? usual("Scenario", "seeing_fwhm_arcsec")}″`}
          testId="seeing"
          onChange={(v) => change((s) => void (s.seeing_fwhm_arcsec = v))}
        />
      </div>
    </Card>
  );
}
