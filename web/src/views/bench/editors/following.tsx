import type { Contender, Scenario } from "@/api/client";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { range, usual } from "@/parts/range";
import { TargetPlace } from "./TargetPlace";

type Following = NonNullable<Contender["mount"]>["following"];
type Props = {
  scenario: Scenario;
  contender: Contender;
  edit: (f: (c: Contender) => void) => void;
  change: (edit: (draft: Scenario) => void) => void;
};

/** How the mount follows the sky; for one that does not, what it is allowed and where it points. */
export function FollowingFields({ scenario, contender, edit, change }: Props) {
  const mount = contender.mount;
  const set = (following: Following) =>
    edit((c) => void (c.mount = following === "equatorial" ? null : { trail_px: 1, ...c.mount, following }));
  return (
    <>
      <div className="mt-2.5 grid grid-cols-2 gap-2.5">
        <Select
          label="The mount"
          value={mount?.following ?? "equatorial"}
          options={[
            { value: "equatorial", label: "turns with the sky" },
            { value: "alt_az", label: "alt-az: the field turns" },
            { value: "fixed", label: "stands still" },
          ]}
          onChange={(v) => set(v as Following)}
          testId="following"
        />
        {mount && (
          <NumberField
            label="A star may trail"
            unit="px"
            value={mount.trail_px ?? usual("Mount", "trail_px")}
            {...range("Mount", "trail_px")}
            onChange={(v) => edit((c) => void (c.mount = { ...mount, trail_px: v }))}
          />
        )}
        {mount?.following === "alt_az" && (
          <NumberField
            label="Latitude of the site"
            unit="°"
            value={scenario.sky.latitude_deg ?? null}
            {...range("Sky", "latitude_deg")}
            onChange={(v) => change((s) => void (s.sky.latitude_deg = v))}
            testId="latitude"
          />
        )}
      </div>
      {mount && <TargetPlace {...{ scenario, change }} />}
    </>
  );
}

/** How often the field is moved between subs, and what a move costs. */
export function DitherFields({ contender, edit }: Pick<Props, "contender" | "edit">) {
  const dither = contender.dither;
  return (
    <>
      <Select
        label="The field is moved"
        value={dither ? String(dither.every) : "0"}
        placeholder={dither ? `after every ${dither.every} subs` : undefined}
        options={[
          { value: "0", label: "within the overhead" },
          { value: "1", label: "after every sub" },
          ...[2, 3, 5, 10].map((n) => ({ value: String(n), label: `after every ${n} subs` })),
        ]}
        onChange={(v) =>
          edit((c) => void (c.dither = v === "0" ? null : { cost_s: dither?.cost_s ?? 15, every: Number(v) }))
        }
        testId="dither-every"
      />
      {dither && (
        <NumberField
          label="A move with settling"
          unit="s"
          value={dither.cost_s}
          {...range("Dither", "cost_s")}
          onChange={(v) => edit((c) => void (c.dither = { ...dither, cost_s: v }))}
          testId="dither-cost"
        />
      )}
    </>
  );
}
