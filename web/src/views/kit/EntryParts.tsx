import type { FieldError, ShelfEntry } from "@/api/client";
import { type Band, BandFields } from "./BandFields";
import { BinningModes } from "./BinningModes";
import { CurveEditor } from "./CurveEditor";
import { EntryFields } from "./EntryFields";
import { bandsAsPoints, followBands, get, put } from "./entryDraft";
import { GainTable } from "./GainTable";
import type { ByAzimuth } from "./horizon";
import { LampFields } from "./LampFields";
import { MeterFields } from "./MeterFields";
import { PlaceFields } from "./PlaceFields";
import { RigFields } from "./RigFields";
import { RigSummary } from "./RigSummary";
import { Source } from "./Source";

type Props = {
  id: string;
  draft: ShelfEntry;
  change: (how: (next: ShelfEntry) => void) => void;
  errors: readonly FieldError[];
};

/** Everything that is typed, chosen or dragged of a thing of the kit, by its kind. */
export function EntryParts({ id, draft, change, errors }: Props) {
  const kind = draft.thing.kind;
  const item = draft.thing.item as unknown;
  const edit = (path: string, value: unknown, source = "typed") =>
    change((next) => {
      if (path === "filter.bands") followBands(next, value as Band[]);
      put(next.thing.item, path.split("."), value);
      if (kind !== "rig") next.sources = { ...next.sources, [path]: source };
    });
  const wrong = (path: string) => errors.find((e) => e.path === `thing.item.${path}`)?.message;
  // What a rig is, its owner says: there is no other source.
  const sourceOf = (path: string) => draft.sources?.[path] ?? draft.sources?.[""] ?? (kind === "rig" ? "" : "unknown");
  const curve = (path: string, label: string) => {
    const points = get(item, path.split(".")) as number[][] | null | undefined;
    return points ? (
      <div key={path} className="mt-4">
        <CurveEditor label={label} points={points} onChange={(p, source) => edit(path, p, source)} />
        <Source text={sourceOf(path)} />
      </div>
    ) : null;
  };
  const bands = kind === "filter" ? (get(item, ["filter", "bands"]) as Band[] | null) : null;
  const asCurve = () =>
    change((next) => {
      put(next.thing.item, ["filter", "bands"], null);
      put(next.thing.item, ["filter", "curve"], bandsAsPoints(bands ?? []));
      next.sources = { ...next.sources, "filter.curve": "typed" };
    });
  const gains = kind === "camera" ? (get(item, ["sensor", "gains"]) as Record<string, number>[]) : null;
  return (
    <>
      {draft.thing.kind === "rig" && (
        <>
          <RigSummary id={id} />
          <RigFields rig={draft.thing.item} edit={edit} wrong={wrong} />
          <h3 className="mt-4 mb-1 font-medium">What only this rig has</h3>
        </>
      )}
      <EntryFields {...{ kind, edit, wrong, sourceOf }} valueAt={(path) => get(item, path.split("."))} />
      {kind === "site" && (
        <PlaceFields
          zone={(get(item, ["zone"]) as string | null) ?? ""}
          horizon={(get(item, ["horizon_deg"]) as ByAzimuth | undefined) ?? []}
          glow={(get(item, ["glow"]) as ByAzimuth | undefined) ?? []}
          edit={edit}
          wrong={wrong}
        />
      )}
      {kind === "site" && (
        <MeterFields
          site={id}
          byHour={(get(item, ["by_hour"]) as ByAzimuth | undefined) ?? []}
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
      {bands && <BandFields {...{ bands, edit, wrong, sourceOf, asCurve }} />}
      {kind === "filter" && curve("filter.curve", "Transmission")}
      {draft.thing.kind === "camera" && (
        <BinningModes
          modes={draft.thing.item.sensor.binning ?? []}
          edit={(m) => edit("sensor.binning", m)}
          wrong={wrong}
        />
      )}
      {gains && <GainTable {...{ gains, edit, sourceOf }} />}
      {kind === "camera" && curve("sensor.qe", "Quantum efficiency")}
      {kind === "camera" &&
        (["r", "g", "b"] as const).map((c) =>
          curve(`sensor.cfa_curves.${c}`, `Colour array, ${c === "r" ? "red" : c === "g" ? "green" : "blue"}`),
        )}
    </>
  );
}
