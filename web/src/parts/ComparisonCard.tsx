import { useQuery } from "@tanstack/react-query";
import { Copy, PencilLine, Trash2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import type { ScenarioRow } from "@/api/client";
import { useDuplicateScenario, useRemoveScenario, useRenameScenario, useRestoreScenario } from "@/api/mutations";
import { cardQuery } from "@/api/queries";
import { IconButton } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import type { useOfferUndo } from "@/parts/useOfferUndo";
import { Words } from "@/parts/Words";
import { CardBars } from "./CardBars";

/** A stored comparison as a card: which path is first and by how much, with its picture; opened, renamed in place, duplicated, deleted. */
export function ComparisonCard({ row, offerUndo }: { row: ScenarioRow; offerUndo: ReturnType<typeof useOfferUndo> }) {
  const [renaming, setRenaming] = useState(false);
  const [retitle, duplicate] = [useRenameScenario(), useDuplicateScenario()];
  const [remove, restore] = [useRemoveScenario(), useRestoreScenario()];
  const card = useQuery(cardQuery(row.id, row.revision));
  const rename = (title: string) => {
    setRenaming(false);
    if (title.trim() && title !== row.title) void retitle({ id: row.id, title }).catch(fail);
  };
  const takeOut = () => {
    offerUndo(`Deleted "${row.title}"`, () => restore(row.id), remove(row.id));
  };
  return (
    <li className="group flex min-w-0 gap-3 rounded-xl bg-surface p-3 hover:bg-raised">
      <img
        src={`/api/v1/scenarios/${row.id}/thumb.png?r=${row.revision}`}
        alt=""
        width={72}
        height={72}
        loading="lazy"
        className="size-[72px] shrink-0 rounded-lg bg-well"
      />
      <div className="flex min-w-0 grow flex-col">
        <div className="flex min-w-0 items-start gap-1">
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
            <div className="truncate text-[0.85rem] text-muted">
              {row.target || "No target"} · changed{" "}
              {new Date(row.changed_at).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" })}
            </div>
          </div>
          <IconButton label={`Rename ${row.title}`} className="h-7 w-7" onClick={() => setRenaming(true)}>
            <PencilLine size={15} aria-hidden />
          </IconButton>
          <IconButton
            label={`Duplicate ${row.title}`}
            className="h-7 w-7"
            onClick={() => void duplicate(row.id).catch(fail)}
          >
            <Copy size={15} aria-hidden />
          </IconButton>
          <IconButton label={`Delete ${row.title}`} className="h-7 w-7" onClick={takeOut}>
            <Trash2 size={15} aria-hidden />
          </IconButton>
        </div>
        <p className="mt-1 text-[0.92rem] leading-5" data-testid="card-words">
          {card.data ? <Words text={card.data.words} /> : card.error ? card.error.message : "…"}
        </p>
        {card.data && <CardBars card={card.data} />}
      </div>
    </li>
  );
}
