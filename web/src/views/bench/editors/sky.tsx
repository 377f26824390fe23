import { uncertain } from "@/parts/choices";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { EmissionFields } from "@/parts/EmissionFields";
import { range, usual } from "@/parts/range";
import { type Inner, Title, wrongAt } from "./shared";

export function TargetEditor({ scenario, change, errors }: Inner) {
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
          {...range("Uncertainty", "target_relative", 100)}
          onChange={(v) => change((s) => uncertain(s, { target_relative: v / 100 }))}
          testId="target-uncertainty"
        />
      </div>
    </>
  );
}

export function AirEditor({ scenario, change, errors }: Inner) {
  const { sky } = scenario;
  return (
    <>
      <Title note="Shared by all paths.">The air</Title>
      <div className="grid grid-cols-2 gap-2.5">
        <NumberField
          label="Height of the target"
          unit="°"
          value={sky.target_altitude_deg}
          {...range("Sky", "target_altitude_deg")}
          error={wrongAt(errors, "sky.target_altitude_deg")}
          onChange={(v) => change((s) => void (s.sky.target_altitude_deg = v))}
        />
        <NumberField
          label="Site above the sea"
          unit="m"
          value={sky.site_height_m ?? usual("Sky", "site_height_m")}
          {...range("Sky", "site_height_m")}
          onChange={(v) => change((s) => void (s.sky.site_height_m = v))}
        />
        <NumberField
          label="Sky known to"
          unit="± mag"
          value={scenario.choices?.uncertainty?.sky_mag ?? 0.15}
          {...range("Uncertainty", "sky_mag")}
          onChange={(v) => change((s) => uncertain(s, { sky_mag: v }))}
        />
        <NumberField
          label="Sun"
          unit="°"
          value={sky.sun_altitude_deg ?? usual("Sky", "sun_altitude_deg")}
          {...range("Sky", "sun_altitude_deg")}
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
            {...range("Sky", "k_v")}
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
