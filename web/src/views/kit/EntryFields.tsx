import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { DesignRatios } from "./DesignRatios";
import { FIELDS } from "./fields";
import { Source } from "./Source";

const LEAVE_OUT = "min-h-[24px] text-[0.8rem] text-muted underline underline-offset-4 hover:text-ink";

type Props = {
  kind: string;
  /** A value of the entry's thing by its path. */
  valueAt: (path: string) => unknown;
  edit: (path: string, value: unknown) => void;
  wrong: (path: string) => string | undefined;
  sourceOf: (path: string) => string;
};

/** The plain numbers of an entry, each with where it comes from, and what else is chosen of it. */
export function EntryFields({ kind, valueAt, edit, wrong, sourceOf }: Props) {
  return (
    <div className="grid grid-cols-4 gap-x-3 gap-y-2.5 max-xl:grid-cols-3 max-md:grid-cols-2">
      {FIELDS[kind]?.map(({ path, label, unit, range, optional, hint }) => {
        const value = valueAt(path) as number | null | undefined;
        if (value == null)
          return optional ? (
            <div key={path} className="self-end" title={hint}>
              <Button
                look="quiet"
                className="h-auto min-h-8 text-left whitespace-normal!"
                onClick={() => edit(path, optional.from)}
              >
                + {label}
              </Button>
            </div>
          ) : null;
        return (
          <div key={path} title={hint}>
            <NumberField
              label={label}
              {...(unit && { unit })}
              value={value}
              {...range}
              error={wrong(path)}
              onChange={(v) => edit(path, v)}
            />
            <Source text={sourceOf(path)} hint={hint} />
            {optional && (
              <button type="button" className={LEAVE_OUT} onClick={() => edit(path, null)}>
                leave out
              </button>
            )}
          </div>
        );
      })}
      {kind === "filter" && (
        <DesignRatios
          value={valueAt("filter.design_focal_ratios") as number[] | null | undefined}
          edit={(v) => edit("filter.design_focal_ratios", v)}
          wrong={wrong}
        />
      )}
      {kind === "filter" && (
        <Select
          label="Of use on"
          value={String(valueAt("fits"))}
          options={[
            { value: "any", label: "Any camera" },
            { value: "mono", label: "Mono only" },
            { value: "colour", label: "Colour only" },
          ]}
          onChange={(v) => edit("fits", v)}
        />
      )}
      {kind === "camera" && (
        <Select
          label="Colour array"
          value={String(valueAt("sensor.cfa") ?? "mono")}
          options={["mono", "RGGB", "GRBG", "GBRG", "BGGR"]
            .filter((p) => (valueAt("sensor.cfa_curves") ? p !== "mono" : p === "mono"))
            .map((p) => ({ value: p, label: p === "mono" ? "None: mono" : p }))}
          onChange={(v) => edit("sensor.cfa", v === "mono" ? null : v)}
        />
      )}
    </div>
  );
}
