import type { StoredEntry } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { savedDraft } from "@/parts/savedDraft";
import { shelfDraft } from "./EntryEditor";

type Props = {
  row: StoredEntry;
  chosen: boolean;
  /** Whether it stands in the comparison of filters; undefined for what cannot. */
  compared: boolean | undefined;
  toggle: () => void;
  choose: () => void;
  restore: () => void;
};

/** A thing of the shelf in the list. */
export function ShelfRow({ row, chosen, compared, toggle, choose, restore }: Props) {
  return (
    <li className={`flex items-center gap-2 rounded-lg px-2 py-1 ${chosen ? "bg-raised" : "hover:bg-surface"}`}>
      {compared !== undefined && (
        <input
          type="checkbox"
          aria-label={`Compare ${row.entry.name}`}
          checked={compared}
          onChange={toggle}
          className="size-[24px] shrink-0 scale-60 accent-[var(--salt)]"
        />
      )}
      <button
        type="button"
        className="min-h-[26px] min-w-0 grow truncate rounded text-left"
        aria-current={chosen}
        onClick={choose}
      >
        {row.entry.name}
      </button>
      {!chosen && savedDraft(shelfDraft(row.id), row.entry) && (
        <span className="shrink-0 text-[0.8rem] text-amber">unsaved</span>
      )}
      {row.usual && <span className="shrink-0 text-[0.8rem] text-salt">usual</span>}
      {row.archived && (
        <Button look="quiet" className="h-6 px-1" onClick={restore}>
          take back
        </Button>
      )}
    </li>
  );
}
