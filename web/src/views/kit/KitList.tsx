import type { StoredEntry } from "@/api/client";
import { groupOf } from "@/parts/shelfOptions";
import { ShelfRow } from "./ShelfRow";

type Props = {
  label: string;
  rows: readonly StoredEntry[];
  chosen: string | undefined;
  /** Which filters stand in the comparison; undefined for what cannot. */
  compared: ReadonlySet<string> | undefined;
  toggle: (id: string) => void;
  choose: (id: string) => void;
  restore: (id: string) => void;
};

/** Things of one kind, one's own before what is on offer. */
export function KitList({ label, rows, chosen, compared, toggle, choose, restore }: Props) {
  const groups = [true, false].map((mine) => rows.filter((r) => r.mine === mine)).filter((g) => g.length > 0);
  return (
    <div className="max-h-[calc(100dvh-13rem)] overflow-y-auto pr-1" tabIndex={0} role="region" aria-label={label}>
      {groups.map((group) => {
        const name = groupOf(group[0]?.mine ?? false);
        return (
          <div key={name}>
            {group[0]?.entry.thing.kind !== "rig" && (
              <h2 className="px-2 pt-1.5 text-[0.85rem] font-normal text-muted">{name}</h2>
            )}
            <ul className="flex flex-col gap-1" aria-label={`${label}, ${name.toLowerCase()}`}>
              {group.map((row) => (
                <ShelfRow
                  key={row.id}
                  row={row}
                  chosen={row.id === chosen}
                  compared={compared?.has(row.id)}
                  toggle={() => toggle(row.id)}
                  choose={() => choose(row.id)}
                  restore={() => restore(row.id)}
                />
              ))}
            </ul>
          </div>
        );
      })}
    </div>
  );
}
