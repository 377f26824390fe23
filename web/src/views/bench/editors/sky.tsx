import type { Target } from "@/api/client";
import { uncertain } from "@/parts/choices";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { EmissionFields, typed } from "@/parts/EmissionFields";
import { range, usual } from "@/parts/range";
import { type Inner, Title, wrongAt } from "./shared";
import { TargetPlace } from "./TargetPlace";

type Known = NonNullable<Target["known"]>;

/** Where a target's brightness comes from, and how far each of its lines is then drawn. */
const KNOWN: { value: Known | "own"; label: string; note?: string }[] = [
  { value: "own", label: "As I say", note: "± %" },
  { value: "measured", label: "Measured in my frames", note: "10 %" },
  { value: "preset", label: "A preset", note: "50 %" },
  { value: "hand_table", label: "A table of nebulae", note: "factor 2" },
  { value: "typical", label: "Only typical of its kind", note: "factor 3" },
];

export function TargetEditor({ scenario, change, errors }: Inner) {
  return (
    <>
      <Title note="Shared by all paths. Outside the atmosphere, mean over the part of interest.">
        What the target emits
      </Title>
      <div className="grid grid-cols-2 gap-2.5">
        <EmissionFields
          target={scenario.target}
          edit={(f) => change((s) => typed(s.target, f))}
          wrong={(path) => wrongAt(errors, path)}
        />
        <Select
          label="Where that comes from"
          value={scenario.target.known ?? "own"}
          options={KNOWN}
          onChange={(v) => change((s) => void (s.target.known = v === "own" ? null : (v as Known)))}
          testId="target-known"
        />
        {scenario.target.known == null && (
          <NumberField
            label="Each line known to"
            unit="± %"
            value={(scenario.choices?.uncertainty?.target_relative ?? usual("Uncertainty", "target_relative")) * 100}
            {...range("Uncertainty", "target_relative", 100)}
            onChange={(v) => change((s) => uncertain(s, { target_relative: v / 100 }))}
            testId="target-uncertainty"
          />
        )}
      </div>
      <TargetPlace {...{ scenario, change }} />
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
