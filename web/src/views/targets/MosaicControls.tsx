import type { CatalogueObject } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { range } from "@/parts/range";
import { saveFile } from "@/parts/save";
import type { FramingState } from "./useFraming";

const AUTO = "auto";
const GRIDS = ["1x1", "2x1", "1x2", "2x2", "3x1", "1x3", "3x2", "2x3", "3x3", "4x2", "4x3", "4x4"];

/** Panels of the first rig's mosaic, how far they overlap, and their middles as a file. */
export function MosaicControls({ framing, object }: { framing: FramingState; object: CatalogueObject }) {
  const field = framing.fields[0];
  if (!field) return null;
  const { plan, panels } = field;
  const needed = `${plan.panels_wide} × ${plan.panels_high}`;
  const known = GRIDS.includes(framing.panels) || framing.panels === "" ? GRIDS : [...GRIDS, framing.panels];
  const save = () => {
    const rows = panels.map(({ at }, i) =>
      [i + 1, at.ra_deg.toFixed(5), at.dec_deg.toFixed(5), (at.position_angle_deg ?? 0).toFixed(2)].join(","),
    );
    const text = ["panel,ra_deg,dec_deg,position_angle_deg", ...rows].join("\r\n");
    saveFile(`${object.name} panels.csv`, "text/csv", `${text}\r\n`);
  };
  return (
    <div className="mt-2 grid grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)_auto] items-end gap-2">
      <Select
        label="Panels of A, wide × high"
        value={framing.panels || AUTO}
        testId="panels"
        options={[
          { value: AUTO, label: framing.panels ? "As it takes" : `As it takes: ${needed}` },
          ...known.map((g) => ({ value: g, label: g.replace("x", " × ") })),
        ]}
        onChange={(v) => framing.set("panels", v === AUTO ? "" : v)}
      />
      <NumberField
        label="Overlap"
        unit="%"
        value={Math.round((plan.overlap ?? 0) * 100)}
        {...range("FramePlan", "overlap", 100)}
        onChange={(v) => framing.set("overlap", String(v / 100))}
        testId="overlap"
      />
      <Button onClick={save} title="Middles and angles of the panels, as CSV">
        {panels.length === 1 ? "Save its middle" : `Save ${panels.length} middles`}
      </Button>
    </div>
  );
}
