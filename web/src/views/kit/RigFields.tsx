import { useQuery } from "@tanstack/react-query";
import type { Rig } from "@/api/client";
import { shelfQuery } from "@/api/queries";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { range, usual } from "@/parts/range";
import { shelfOptions } from "@/parts/shelfOptions";
import { GapsField } from "./GapsField";
import { SlotTable } from "./SlotTable";

type Props = {
  rig: Rig;
  edit: (path: string, value: unknown) => void;
  wrong: (path: string) => string | undefined;
};

/** The parts of a rig, how it is held and what sits in its slots. */
export function RigFields({ rig, edit, wrong }: Props) {
  const shelf = useQuery(shelfQuery(false));
  const list = shelf.data ?? [];
  const part = (path: "telescope" | "camera", label: string) => (
    <div>
      <Select
        label={label}
        value={rig[path]}
        options={shelfOptions(list, path)}
        placeholder="Choose one"
        onChange={(v) => edit(path, v)}
        testId={`rig-${path}`}
      />
      {wrong(path) && <p className="text-[0.82rem] text-danger">{wrong(path)}</p>}
    </div>
  );
  return (
    <>
      <div className="mb-3 grid grid-cols-4 gap-x-3 gap-y-2.5 max-xl:grid-cols-2 max-md:grid-cols-1">
        {part("telescope", "Telescope")}
        {part("camera", "Camera")}
        <Select
          label="Filters sit in"
          value={rig.holder ?? "wheel"}
          options={[
            { value: "wheel", label: "a wheel" },
            { value: "drawer", label: "a drawer, by hand" },
          ]}
          onChange={(v) => edit("holder", v)}
        />
        <Select
          label="Pixels put together"
          value={String(rig.binning ?? 1)}
          options={[1, 2, 3, 4].map((n) => ({ value: String(n), label: n === 1 ? "none" : `${n} × ${n}` }))}
          onChange={(v) => edit("binning", Number(v))}
          testId="rig-binning"
        />
        <Select
          label="The mount"
          value={rig.mount?.following ?? "equatorial"}
          options={[
            { value: "equatorial", label: "turns with the sky" },
            { value: "alt_az", label: "alt-az: the field turns" },
            { value: "fixed", label: "stands still" },
          ]}
          onChange={(v) => edit("mount", v === "equatorial" ? null : { trail_px: 1, ...rig.mount, following: v })}
        />
        {rig.mount && (
          <NumberField
            label="A star may trail"
            unit="px"
            value={rig.mount.trail_px ?? usual("Mount", "trail_px")}
            {...range("Mount", "trail_px")}
            onChange={(v) => edit("mount", { ...rig.mount, trail_px: v })}
          />
        )}
        <Select
          label="The field is moved"
          value={rig.dither ? String(rig.dither.every) : "0"}
          options={[
            { value: "0", label: "within what a sub loses" },
            { value: "1", label: "after every sub" },
            ...[2, 3, 5, 10].map((n) => ({ value: String(n), label: `after every ${n} subs` })),
          ]}
          onChange={(v) => edit("dither", v === "0" ? null : { cost_s: rig.dither?.cost_s ?? 15, every: Number(v) })}
        />
        {rig.dither && (
          <NumberField
            label="A move with settling"
            unit="s"
            value={rig.dither.cost_s}
            {...range("Dither", "cost_s")}
            onChange={(v) => edit("dither", { ...rig.dither, cost_s: v })}
          />
        )}
        <GapsField
          value={rig.ghost_gaps_mm ?? []}
          onChange={(v) => edit("ghost_gaps_mm", v)}
          error={wrong("ghost_gaps_mm")}
        />
      </div>
      <SlotTable
        slots={rig.slots ?? []}
        holder={rig.holder ?? "wheel"}
        filters={shelfOptions(list, "filter")}
        edit={(slots) => edit("slots", slots)}
        wrong={wrong}
      />
    </>
  );
}
