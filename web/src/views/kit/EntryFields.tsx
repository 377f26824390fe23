import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { FIELDS } from "./fields";
import { Source } from "./Source";

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
      {FIELDS[kind]?.map(([path, label, unit, bounds, optional]) => {
        const value = valueAt(path) as number | null | undefined;
        if (value == null)
          return optional ? (
            <div key={path} className="self-end">
              <Button
                look="quiet"
                className="h-auto min-h-8 text-left whitespace-normal!"
                onClick={() => edit(path, Math.max(bounds.min, 0))}
              >
                + {label}
              </Button>
            </div>
          ) : null;
        return (
          <div key={path}>
            <NumberField
              label={label}
              unit={unit}
              value={value}
              {...bounds}
              error={wrong(path)}
              onChange={(v) => edit(path, v)}
            />
            <Source text={sourceOf(path)} />
          </div>
        );
      })}
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
