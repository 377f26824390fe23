import type { StoredEntry } from "@/api/client";
import type { Option } from "@/parts/controls/Select";

/** What is owned stands before what is only on offer. */
export const groupOf = (mine: boolean) => (mine ? "Mine" : "On offer");

/** Things of one kind as a list to choose from, one's own first. */
export const shelfOptions = (shelf: readonly StoredEntry[], kind: string): Option[] =>
  shelf
    .filter((e) => e.entry.thing.kind === kind)
    .map((e) => ({ value: e.id, label: e.entry.name, group: groupOf(e.mine) }));
