import { type ReactNode, useState } from "react";
import type { ProblemError, ShelfEntry, StoredEntry } from "@/api/client";
import { ConflictDialog } from "@/parts/ConflictDialog";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { range } from "@/parts/range";
import { useSavedDraft } from "@/parts/savedDraft";
import { UnfitDraft } from "@/parts/UnfitDraft";
import { CurveEditor } from "./CurveEditor";
import type { Horizon } from "./horizon";
import { PlaceFields } from "./PlaceFields";

/** Saves over a revision: `null` where it is saved, else what was wrong. */
type Save = (entry: ShelfEntry, baseRevision: number) => Promise<ProblemError | null>;
type Props = {
  stored: StoredEntry;
  save: Save;
  /** Saves as a thing of its own. */
  saveCopy: (entry: ShelfEntry) => Promise<void>;
  actions: (draft: ShelfEntry) => ReactNode;
  /** Says that something was taken away, with the way back. */
  offerUndo: (said: string, way: () => Promise<unknown>) => void;
};
type Path = (string | number)[];
type Json = Record<string, unknown>;

const get = (from: unknown, path: Path): unknown =>
  path.reduce<unknown>((v, k) => (v as Json | undefined)?.[k as string], from);
function put(into: unknown, path: Path, value: unknown) {
  const last = path.at(-1) as string;
  (get(into, path.slice(0, -1)) as Json)[last] = value;
}

/** Under which name what is typed for an entry is kept. */
export const shelfDraft = (id: string) => `shelf.${id}`;

/** One field of an entry: its path, its name, its unit and its range. */
type Field = [
  path: string,
  label: string,
  unit: string | undefined,
  range: { min: number; max: number },
  optional?: true,
];
const FIELDS: Record<string, Field[]> = {
  site: [
    ["latitude_deg", "Latitude, north +", "°", range("Site", "latitude_deg")],
    ["longitude_deg", "Longitude, east +", "°", range("Site", "longitude_deg")],
    ["height_m", "Above the sea", "m", range("Site", "height_m")],
    ["zenith_v_mag", "Zenith, no moon", "mag/″²", range("Site", "zenith_v_mag")],
    ["k_v", "Extinction, V", "mag", range("Site", "k_v"), true],
  ],
  telescope: [
    ["optics.aperture_mm", "Aperture", "mm", range("Optics", "aperture_mm")],
    ["optics.focal_length_mm", "Focal length", "mm", range("Optics", "focal_length_mm")],
    ["optics.obstruction_mm", "Obstruction", "mm", range("Optics", "obstruction_mm")],
    ["optics.reducer", "Reducer", "×", range("Optics", "reducer")],
    ["optics.throughput", "Light passed", "0–1", range("Optics", "throughput")],
    ["optics.longest_sub_s", "Longest round sub", "s", range("Optics", "longest_sub_s"), true],
    ["price", "Price", undefined, range("Contender", "price"), true],
  ],
  filter: [
    ["filter.off_band_od", "Blocking", "OD", range("Filter", "off_band_od")],
    ["filter.n_eff", "Effective index", undefined, range("Filter", "n_eff")],
    ["filter.centre_tolerance_nm", "Centre tolerance", "± nm", range("Filter", "centre_tolerance_nm")],
    ["filter.rear_reflectance", "Rear reflectance", "0–1", range("Filter", "rear_reflectance"), true],
    ["filter.price", "Price", undefined, range("Filter", "price"), true],
  ],
  camera: [
    ["sensor.pixel_um", "Pixel", "µm", range("Sensor", "pixel_um")],
    ["sensor.columns", "Columns", "px", range("Sensor", "columns")],
    ["sensor.rows", "Rows", "px", range("Sensor", "rows")],
    ["sensor.bits", "Converter", "bit", range("Sensor", "bits")],
    ["sensor.offset_adu", "Offset", "ADU", range("Sensor", "offset_adu")],
    ["sensor.readout_s", "Readout", "s", range("Sensor", "readout_s")],
    ["sensor.dark.e_per_s", "Dark current", "e-/s", range("Dark", "e_per_s")],
    ["sensor.dark.at_c", "Dark current at", "°C", range("Dark", "at_c")],
    ["sensor.dark.doubling_k", "It doubles every", "K", range("Dark", "doubling_k")],
    ["sensor.rise_above_ambient_k", "Uncooled: rise above air", "K", range("Sensor", "rise_above_ambient_k"), true],
    ["usual_gain", "Usual gain", undefined, range("Contender", "gain")],
    ["usual_temperature_c", "Usual set point", "°C", range("Contender", "sensor_temperature_c")],
    ["price", "Price", undefined, range("Contender", "price"), true],
  ],
};

/** An entry of the shelf: every number with its unit and where it comes from. */
export function EntryEditor({ stored, save, saveCopy, actions, offerUndo }: Props) {
  const { draft, baseRevision, dirty, setDraft, take } = useSavedDraft<ShelfEntry>(
    shelfDraft(stored.id),
    stored.entry,
    stored.revision,
  );
  const [problem, setProblem] = useState<ProblemError | null>(null);
  const [conflict, setConflict] = useState<StoredEntry | null>(null);
  const [saving, setSaving] = useState(false);
  const send = async (over = baseRevision) => {
    setSaving(true);
    const wrong = await save(draft, over);
    const theirs = wrong?.problem.status === 412 ? (wrong.problem.current as StoredEntry | undefined) : undefined;
    setConflict(theirs ?? null);
    setProblem(theirs ? null : wrong);
    setSaving(false);
  };
  const kind = draft.thing.kind;
  const item = draft.thing.item as unknown;
  const edit = (path: string, value: unknown, source = "typed") => {
    const next = structuredClone(draft);
    put(next.thing.item, path.split("."), value);
    next.sources = { ...next.sources, [path]: source };
    setDraft(next);
  };
  const wrong = (path: string) => problem?.problem.errors.find((e) => e.path === `thing.item.${path}`)?.message;
  const sourceOf = (path: string) => draft.sources?.[path] ?? draft.sources?.[""] ?? "unknown";
  const curve = (path: string, label: string) => {
    const points = get(item, path.split(".")) as number[][] | null | undefined;
    return points ? (
      <div key={path} className="mt-4">
        <CurveEditor label={label} points={points} onChange={(p, source) => edit(path, p, source)} />
        <Source text={sourceOf(path)} />
      </div>
    ) : null;
  };
  const bands =
    kind === "filter"
      ? (get(item, ["filter", "bands"]) as { centre_nm: number; fwhm_nm: number; peak: number; order: number }[] | null)
      : null;
  const gains = kind === "camera" ? (get(item, ["sensor", "gains"]) as Record<string, number>[]) : null;
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void send();
      }}
    >
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <input
          aria-label="Name"
          value={draft.name}
          maxLength={200}
          onChange={(e) => setDraft(renamed(draft, e.target.value))}
          className="min-w-40 grow rounded bg-transparent px-1 text-[1.15rem] font-medium hover:bg-raised focus:bg-well"
        />
        {dirty && <span className="text-[0.86rem] text-muted">Unsaved, kept in this browser</span>}
        {actions(draft)}
        {dirty && (
          <Button
            onClick={() => {
              take(stored.entry, stored.revision);
              setProblem(null);
              offerUndo(`Discarded what was typed for "${stored.entry.name}"`, async () => take(draft, baseRevision));
            }}
          >
            Discard
          </Button>
        )}
        <Button look={dirty ? "lit" : "plain"} type="submit" disabled={!dirty || saving}>
          Save
        </Button>
      </div>
      <UnfitDraft key={stored.id} id={shelfDraft(stored.id)} />
      {conflict && (
        <ConflictDialog
          theirs={{ title: conflict.entry.name, changed_at: conflict.changed_at }}
          onTheirs={() => {
            take(conflict.entry, conflict.revision);
            setConflict(null);
          }}
          onCopy={() => {
            void saveCopy({ ...draft, name: `${draft.name} (mine)`.slice(0, 200) });
            take(conflict.entry, conflict.revision);
            setConflict(null);
          }}
          onOver={() => void send(conflict.revision)}
          onClose={() => setConflict(null)}
        />
      )}
      {problem && problem.problem.errors.length === 0 && (
        <p role="alert" className="mb-3 rounded-lg border border-danger/60 px-3 py-2">
          {problem.message}
        </p>
      )}
      {problem && problem.problem.errors.length > 0 && (
        <div role="alert" className="mb-3 rounded-lg border border-danger/60 px-3 py-2">
          <ul>
            {problem.problem.errors.map((e) => (
              <li key={e.path}>
                <code className="num text-amber">{e.path}</code> {e.message}
              </li>
            ))}
          </ul>
        </div>
      )}
      <div className="grid grid-cols-4 gap-x-3 gap-y-2.5 max-xl:grid-cols-3 max-md:grid-cols-2">
        {FIELDS[kind]?.map(([path, label, unit, bounds, optional]) => {
          const value = get(item, path.split(".")) as number | null | undefined;
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
            value={String(get(item, ["fits"]))}
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
            value={String(get(item, ["sensor", "cfa"]) ?? "mono")}
            options={["mono", "RGGB", "GRBG", "GBRG", "BGGR"]
              .filter((p) => (get(item, ["sensor", "cfa_curves"]) ? p !== "mono" : p === "mono"))
              .map((p) => ({ value: p, label: p === "mono" ? "None: mono" : p }))}
            onChange={(v) => edit("sensor.cfa", v === "mono" ? null : v)}
          />
        )}
      </div>
      {kind === "site" && (
        <PlaceFields
          zone={(get(item, ["zone"]) as string | null) ?? ""}
          horizon={(get(item, ["horizon_deg"]) as Horizon | undefined) ?? []}
          edit={edit}
          wrong={wrong}
        />
      )}
      {kind === "site" && (
        <LampFields
          lamps={get(item, ["lamps"]) as Record<string, number>}
          onChange={(l) => edit("lamps", l)}
          error={wrong("lamps")}
        />
      )}
      {bands && (
        <div className="mt-4">
          <h3 className="font-medium">Bands</h3>
          {bands.map((b, i) => (
            <div key={i} className="mt-1.5 grid grid-cols-4 gap-3">
              {(
                [
                  ["centre_nm", "Centre", "nm"],
                  ["fwhm_nm", "Width", "nm"],
                  ["peak", "Peak", "0–1"],
                  ["order", "Edge steepness", undefined],
                ] as const
              ).map(([f, label, unit]) => (
                <NumberField
                  key={f}
                  label={label}
                  unit={unit}
                  value={b[f]}
                  {...range("Passband", f)}
                  error={wrong(`filter.bands[${i}].${f}`)}
                  onChange={(v) =>
                    edit(
                      "filter.bands",
                      bands.map((x, j) => (j === i ? { ...x, [f]: v } : x)),
                    )
                  }
                />
              ))}
            </div>
          ))}
          <Source text={sourceOf("filter.bands")} />
          <div className="mt-2 flex gap-2">
            <Button
              look="quiet"
              onClick={() => edit("filter.bands", [...bands, { centre_nm: 500.7, fwhm_nm: 7, peak: 0.9, order: 3 }])}
            >
              + Band
            </Button>
            {bands.length > 1 && (
              <Button look="quiet" onClick={() => edit("filter.bands", bands.slice(0, -1))}>
                Remove the last
              </Button>
            )}
            <Button
              look="quiet"
              onClick={() => {
                const next = structuredClone(draft);
                put(next.thing.item, ["filter", "bands"], null);
                put(next.thing.item, ["filter", "curve"], bandsAsPoints(bands));
                next.sources = { ...next.sources, "filter.curve": "typed" };
                setDraft(next);
              }}
            >
              Use a curve instead
            </Button>
          </div>
        </div>
      )}
      {kind === "filter" && curve("filter.curve", "Transmission")}
      {gains && (
        <div className="mt-4">
          <h3 className="font-medium">Gain table</h3>
          <table className="num mt-1 w-full text-right text-[0.9rem]">
            <thead className="text-muted">
              <tr>
                {["setting", "e-/ADU", "read noise e-", "full well e-"].map((h) => (
                  <th key={h} scope="col" className="px-2 py-0.5 font-normal">
                    {h}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {gains.map((g, i) => (
                <tr key={i} className="border-t border-edge/60">
                  {["setting", "e_per_adu", "read_noise_e", "full_well_e"].map((k) => (
                    <td key={k} className="px-1 py-0.5">
                      <input
                        aria-label={`${k.replaceAll("_", " ")}, row ${i + 1}`}
                        defaultValue={g[k]}
                        className="w-full rounded border border-transparent bg-transparent px-1 text-right hover:border-edge focus:border-edge-strong focus:bg-well"
                        onBlur={(e) => {
                          const v = Number(e.target.value.replace(",", "."));
                          if (Number.isFinite(v) && v !== g[k])
                            edit(
                              "sensor.gains",
                              gains.map((x, j) => (j === i ? { ...x, [k]: v } : x)),
                            );
                        }}
                      />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          <Source text={sourceOf("sensor.gains")} />
        </div>
      )}
      {kind === "camera" && curve("sensor.qe", "Quantum efficiency")}
      {kind === "camera" &&
        (["r", "g", "b"] as const).map((c) =>
          curve(`sensor.cfa_curves.${c}`, `Colour array, ${c === "r" ? "red" : c === "g" ? "green" : "blue"}`),
        )}
    </form>
  );
}

function Source({ text }: { text: string }) {
  return (
    <div
      className={`mt-0.5 text-[0.8rem] ${text === "typed" || text.startsWith("imported") ? "text-amber" : "text-muted"}`}
    >
      {text}
    </div>
  );
}

/** A new name, also where the thing itself carries it. */
function renamed(entry: ShelfEntry, name: string): ShelfEntry {
  const next = structuredClone({ ...entry, name });
  if (next.thing.kind === "filter") next.thing.item.filter.name = name;
  if (next.thing.kind === "camera") next.thing.item.sensor.name = name;
  return next;
}

/** Corner points of flat bands, to start a curve from. */
function bandsAsPoints(bands: { centre_nm: number; fwhm_nm: number; peak: number }[]): number[][] {
  const sorted = [...bands].sort((a, b) => a.centre_nm - b.centre_nm);
  const out: number[][] = [];
  for (const b of sorted) {
    const half = b.fwhm_nm / 2;
    for (const [d, v] of [
      [-half * 1.25, 0],
      [-half * 0.8, b.peak],
      [half * 0.8, b.peak],
      [half * 1.25, 0],
    ] as const) {
      const nm = Math.round((b.centre_nm + d) * 100) / 100;
      if (nm > (out.at(-1)?.[0] ?? 0)) out.push([nm, v]);
    }
  }
  return out;
}

const LAMP_LABELS: [string, string][] = [
  ["led_3000k", "LED 3000 K"],
  ["led_4000k", "LED 4000 K"],
  ["high_pressure_sodium", "Sodium, high pressure"],
  ["low_pressure_sodium", "Sodium, low pressure"],
  ["mercury", "Mercury"],
  ["metal_halide", "Metal halide"],
];

function LampFields({
  lamps,
  onChange,
  error,
}: {
  lamps: Record<string, number>;
  onChange: (l: Record<string, number>) => void;
  error?: string;
}) {
  const sum = LAMP_LABELS.reduce((s, [k]) => s + (lamps[k] ?? 0), 0);
  return (
    <div className="mt-4">
      <h3 className="font-medium">Lamps, as fractions of their light</h3>
      <div className="mt-1 grid grid-cols-3 gap-3 max-md:grid-cols-2">
        {LAMP_LABELS.map(([k, label]) => (
          <NumberField
            key={k}
            label={label}
            unit="0–1"
            value={lamps[k] ?? 0}
            min={0}
            max={1}
            onChange={(v) =>
              onChange(Object.fromEntries(Object.entries({ ...lamps, [k]: v }).filter(([, x]) => x > 0)))
            }
          />
        ))}
      </div>
      {(error || Math.abs(sum - 1) > 1e-3) && (
        <p className="mt-1 text-danger">{error ?? `The fractions sum to ${sum.toFixed(2)}; they must sum to 1.`}</p>
      )}
    </div>
  );
}
