import { Copy, PencilLine, Trash2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import type { ScenarioRow } from "@/api/client";
import { useDuplicateScenario, useRemoveScenario, useRenameScenario, useRestoreScenario } from "@/api/mutations";
import { IconButton } from "@/parts/controls/Button";
import type { useOfferUndo } from "@/parts/useOfferUndo";

const fail = (e: Error) => void toast.error(e.message, { duration: 10_000 });

/** A stored comparison in the list: opened, renamed in place, duplicated, deleted. */
export function ComparisonRow({ row, offerUndo }: { row: ScenarioRow; offerUndo: ReturnType<typeof useOfferUndo> }) {
  const [renaming, setRenaming] = useState(false);
  const [retitle, duplicate] = [useRenameScenario(), useDuplicateScenario()];
  const [remove, restore] = [useRemoveScenario(), useRestoreScenario()];
  const rename = (title: string) => {
    setRenaming(false);
    if (title.trim() && title !== row.title) void retitle({ id: row.id, title }).catch(fail);
  };
  const takeOut = () => {
    offerUndo(`Deleted "${row.title}"`, () => restore(row.id), remove(row.id));
  };
  return (
    <li className="group flex items-center gap-3 rounded-xl bg-surface px-4 py-3 hover:bg-raised">
      <div className="min-w-0 grow">
        {renaming ? (
          <input
            aria-label="New title"
            autoFocus
            defaultValue={row.title}
            maxLength={200}
            className="w-full rounded border border-edge-strong bg-well px-2 py-0.5 text-[1.05rem]"
            onFocus={(e) => e.currentTarget.select()}
            onBlur={(e) => rename(e.currentTarget.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter") e.currentTarget.blur();
              if (e.key === "Escape") setRenaming(false);
            }}
          />
        ) : (
          <Link to={`/bench/${row.id}`} className="block truncate text-[1.05rem] hover:text-salt">
            {row.title || "Untitled"}
          </Link>
        )}
        <div className="truncate text-[0.88rem] text-muted">
          {row.target || "No target"} · changed{" "}
          {new Date(row.changed_at).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" })}
        </div>
      </div>
      <IconButton label={`Rename ${row.title}`} onClick={() => setRenaming(true)}>
        <PencilLine size={16} aria-hidden />
      </IconButton>
      <IconButton label={`Duplicate ${row.title}`} onClick={() => void duplicate(row.id).catch(fail)}>
        <Copy size={16} aria-hidden />
      </IconButton>
      <IconButton label={`Delete ${row.title}`} onClick={takeOut}>
        <Trash2 size={16} aria-hidden />
      </IconButton>
    </li>
  );
}
