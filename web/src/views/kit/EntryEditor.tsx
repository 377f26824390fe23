import { type ReactNode, useState } from "react";
import type { ProblemError, ShelfEntry, StoredEntry } from "@/api/client";
import { ConflictDialog } from "@/parts/ConflictDialog";
import { Button } from "@/parts/controls/Button";
import { UnfitDraft } from "@/parts/UnfitDraft";
import { useSavedDraft } from "@/parts/useSavedDraft";
import { EntryParts } from "./EntryParts";
import { EntryProblem } from "./EntryProblem";
import { rename } from "./entryDraft";

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
  const { kind } = draft.thing;
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
      <EntryParts id={stored.id} draft={draft} change={change} errors={problem?.problem.errors ?? []} />
    </form>
  );
}
