import { type ReactNode, useState } from "react";
import type { ProblemError, ShelfEntry, StoredEntry } from "@/api/client";
import { ConflictDialog } from "@/parts/ConflictDialog";
import { Button } from "@/parts/controls/Button";
import { UnfitDraft } from "@/parts/UnfitDraft";
import { useSavedDraft } from "@/parts/useSavedDraft";
import { type Band, BandFields } from "./BandFields";
import { CurveEditor } from "./CurveEditor";
import { EntryFields } from "./EntryFields";
import { EntryProblem } from "./EntryProblem";
import { GainTable } from "./GainTable";
import type { ByAzimuth } from "./horizon";
import { LampFields } from "./LampFields";
import { PlaceFields } from "./PlaceFields";
import { RigFields } from "./RigFields";
import { RigSummary } from "./RigSummary";
import { Source } from "./Source";

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

/** An entry of the shelf: every number with its unit and where it comes from. */
export function EntryEditor({ stored, save, saveCopy, actions, offerUndo }: Props) {
  const {
    draft,
    baseRevision,
    dirty,
    edit: change,
    take,
  } = useSavedDraft<ShelfEntry>(shelfDraft(stored.id), stored.entry, stored.revision);
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
  const edit = (path: string, value: unknown, source = "typed") =>
    change((next) => {
      put(next.thing.item, path.split("."), value);
      if (kind !== "rig") next.sources = { ...next.sources, [path]: source };
    });
  const wrong = (path: string) => problem?.problem.errors.find((e) => e.path === `thing.item.${path}`)?.message;
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
          onChange={(e) => change((next) => rename(next, e.target.value))}
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
      {problem && <EntryProblem {...{ problem, kind }} />}
      {draft.thing.kind === "rig" && (
        <>
          <RigSummary id={stored.id} />
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
        <LampFields
          lamps={get(item, ["lamps"]) as Record<string, number>}
          onChange={(l) => edit("lamps", l)}
          error={wrong("lamps")}
        />
      )}
      {bands && <BandFields {...{ bands, edit, wrong, sourceOf, asCurve }} />}
      {kind === "filter" && curve("filter.curve", "Transmission")}
      {gains && <GainTable {...{ gains, edit, sourceOf }} />}
      {kind === "camera" && curve("sensor.qe", "Quantum efficiency")}
      {kind === "camera" &&
        (["r", "g", "b"] as const).map((c) =>
          curve(`sensor.cfa_curves.${c}`, `Colour array, ${c === "r" ? "red" : c === "g" ? "green" : "blue"}`),
        )}
    </form>
  );
}

/** A new name, also where the thing itself carries it. */
function rename(next: ShelfEntry, name: string) {
  next.name = name;
  if (next.thing.kind === "filter") next.thing.item.filter.name = name;
  if (next.thing.kind === "camera") next.thing.item.sensor.name = name;
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
