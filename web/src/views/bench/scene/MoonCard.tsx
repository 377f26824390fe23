import { Switch } from "radix-ui";
import { Slider } from "@/parts/controls/Slider";
import { mag } from "@/parts/format";
import { dragged } from "@/parts/range";
import { NightOfDate, TakeNight } from "./NightOfDate";
import { Card, type SceneProps as Props } from "./SceneCard";

const PHASES: [number, string][] = [
  [12, "full"],
  [70, "gibbous"],
  [110, "half"],
  [168, "crescent"],
  [181, "new"],
];

/** The moon: as it is put in by hand, or as it stands on an evening. */
export function MoonCard({ scenario, answer, change }: Props) {
  const { moon } = scenario.sky;
  const brightness = answer?.evaluation.sky.moon_v_mag;
  return (
    <Card
      title="Moon"
      side={
        <div className="flex items-center gap-2">
          <TakeNight {...{ scenario, change }} />
          <Switch.Root
            checked={!!moon}
            aria-label="Moon in the sky"
            onCheckedChange={(on) =>
              change(
                (s) => void (s.sky.moon = on ? { phase_angle_deg: 90, altitude_deg: 40, separation_deg: 70 } : null),
              )
            }
            className="relative h-5 w-9 rounded-full border border-edge-strong bg-well data-[state=checked]:bg-salt-deep"
          >
            <Switch.Thumb className="block size-3.5 translate-x-0.5 rounded-full bg-ink transition-transform data-[state=checked]:translate-x-[1.1rem]" />
          </Switch.Root>
        </div>
      }
    >
      {moon ? (
        <>
          <div className="col-span-2">
            <Slider
              label="Phase angle"
              unit="°"
              value={Math.abs(moon.phase_angle_deg)}
              {...dragged("Moon", "phase_angle_deg", [0, 180])}
              step={1}
              show={`${Math.abs(moon.phase_angle_deg)}° · ${PHASES.find(([to]) => Math.abs(moon.phase_angle_deg) < to)?.[1]}`}
              onChange={(v) => change((s) => void (s.sky.moon && (s.sky.moon.phase_angle_deg = v)))}
            />
          </div>
          <Slider
            label="Height"
            unit="°"
            value={moon.altitude_deg}
            {...dragged("Moon", "altitude_deg", [-5, 90])}
            step={1}
            show={`${moon.altitude_deg}°`}
            hint={brightness == null ? "below the horizon" : `adds ${mag(brightness)}`}
            onChange={(v) => change((s) => void (s.sky.moon && (s.sky.moon.altitude_deg = v)))}
          />
          <Slider
            label="From target"
            unit="°"
            value={moon.separation_deg}
            {...dragged("Moon", "separation_deg", [5, 180])}
            step={1}
            show={`${moon.separation_deg}°`}
            hint={brightness == null ? "" : "mag/arcsec²"}
            onChange={(v) => change((s) => void (s.sky.moon && (s.sky.moon.separation_deg = v)))}
          />
        </>
      ) : (
        <>
          <NightOfDate {...{ scenario, change }} />
          <div className="col-span-2">
            <Slider
              label="Sun, for twilight"
              unit="°"
              value={scenario.sky.sun_altitude_deg ?? -40}
              {...dragged("Sky", "sun_altitude_deg", [-40, -5])}
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
