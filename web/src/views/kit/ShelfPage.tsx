import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Archive, Copy, Download, Plus, Trash2 } from "lucide-react";
import { useCallback, useEffect, useMemo, useState } from "react";
import { toast } from "sonner";
import { answerOf, api, ProblemError, type ShelfEntry, type StoredEntry } from "@/api/client";
import { Button, IconButton } from "@/parts/controls/Button";
import { Choice } from "@/parts/controls/Choice";
import { savedDraft } from "@/parts/savedDraft";
import { useCommands } from "@/parts/shortcuts";
import { useStatusLine } from "@/parts/statusLine";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { CompareFilters } from "./CompareFilters";
import { EntryEditor, shelfDraft } from "./EntryEditor";

const KINDS = [
  ["site", "Sites"],
  ["telescope", "Telescopes"],
  ["filter", "Filters"],
  ["camera", "Cameras"],
] as const;
const fail = (e: Error) => toast.error(e.message, { duration: 10_000 });

/** The shelf: what the user owns or thinks of owning, and where each number comes from. */
export function ShelfPage() {
  const [params, set] = useParamsEdit();
  const client = useQueryClient();
  const setStatusLine = useStatusLine();
  const [archived, setArchived] = useState(false);
  const shelf = useQuery({
    queryKey: ["shelf", archived],
    queryFn: () => answerOf(api.GET("/api/v1/shelf", { params: { query: { archived } } })),
  });
  const kind = KINDS.find(([k]) => k === params.get("kind"))?.[0] ?? "filter";
  const rows = useMemo(() => shelf.data?.filter((s) => s.entry.thing.kind === kind) ?? [], [shelf.data, kind]);
  const compared = useMemo(() => new Set((params.get("compare") ?? "").split(",").filter(Boolean)), [params]);
  const chosen = rows.find((s) => s.id === params.get("id")) ?? rows[0];
  const again = useCallback(async () => {
    await client.invalidateQueries({ queryKey: ["shelf"] });
    await client.invalidateQueries({ queryKey: ["library"] });
  }, [client]);
  const offerUndo = useOfferUndo();
  const restore = async (id: string) => {
    await answerOf(api.POST("/api/v1/shelf/{id}/restore", { params: { path: { id } } }));
    await again();
    set((p) => p.set("id", id));
  };
  const add = async (entry: ShelfEntry) => {
    try {
      const stored = await answerOf(api.POST("/api/v1/shelf", { body: entry }));
      await again();
      set((p) => p.set("id", stored.id));
    } catch (e) {
      fail(e as Error);
    }
  };
  const remove = async (row: StoredEntry) => {
    try {
      const { removed } = await answerOf(api.DELETE("/api/v1/shelf/{id}", { params: { path: { id: row.id } } }));
      const said =
        removed === "archived"
          ? `"${row.entry.name}" is used in a comparison, so it was put away instead of deleted`
          : `Deleted "${row.entry.name}"`;
      offerUndo(said, () => restore(row.id));
      await again();
    } catch (e) {
      fail(e as Error);
    }
  };
  const save = async (row: StoredEntry, entry: ShelfEntry, baseRevision: number): Promise<ProblemError | null> => {
    try {
      await answerOf(
        api.PUT("/api/v1/shelf/{id}", {
          params: { path: { id: row.id }, header: { "If-Match": `"${baseRevision}"` } },
          body: entry,
        }),
      );
      await again();
      toast.success("Saved");
      return null;
    } catch (e) {
      if (e instanceof ProblemError) return e;
      fail(e as Error);
      return null;
    }
  };
  const toKind = useCallback(
    (k: string) =>
      set((p) => {
        p.set("kind", k);
        p.delete("id");
      }),
    [set],
  );
  useTitle(`${KINDS.find(([k]) => k === kind)?.[1]} on the shelf`);
  useCommands(
    useMemo(
      () => [
        ...KINDS.map(([k, label]) => ({
          id: `shelf-${k}`,
          label: `Shelf: ${label}`,
          run: () => toKind(k),
        })),
      ],
      [toKind],
    ),
  );
  useEffect(() => {
    setStatusLine(
      shelf.data
        ? `${shelf.data.length} things on the shelf. Shipped values are typical, from memory: replace them by your own.`
        : "",
    );
    return () => setStatusLine(null);
  }, [setStatusLine, shelf.data]);

  const toggle = (id: string) =>
    set((p) => {
      const next = new Set((p.get("compare") ?? "").split(",").filter(Boolean));
      if (!next.delete(id)) next.add(id);
      if (next.size) p.set("compare", [...next].join(","));
      else p.delete("compare");
    });
  const comparing = rows.filter((r) => compared.has(r.id));
  return (
    <div className="grid grid-cols-[19rem_minmax(0,1fr)] gap-3 px-5 py-3 max-lg:grid-cols-[minmax(0,1fr)]">
      <div className="min-w-0">
        <h1 className="mb-2 text-[1.3rem]">Shelf</h1>
        <Choice
          label="Kind"
          className="mb-2 flex flex-wrap rounded-2xl bg-surface p-0.5"
          value={kind}
          onChange={toKind}
          options={KINDS.map(([value, label]) => ({ value, label }))}
        />
        {shelf.error && <p className="text-danger">{shelf.error.message}</p>}
        <ul
          className="flex max-h-[calc(100dvh-13rem)] flex-col gap-1 overflow-y-auto pr-1"
          aria-label={KINDS.find(([k]) => k === kind)?.[1]}
          tabIndex={0}
        >
          {rows.map((row) => (
            <li
              key={row.id}
              className={`flex items-center gap-2 rounded-lg px-2 py-1 ${row.id === chosen?.id ? "bg-raised" : "hover:bg-surface"}`}
            >
              {kind === "filter" && (
                <input
                  type="checkbox"
                  aria-label={`Compare ${row.entry.name}`}
                  checked={compared.has(row.id)}
                  onChange={() => toggle(row.id)}
                  className="size-[24px] shrink-0 scale-60 accent-[var(--salt)]"
                />
              )}
              <button
                type="button"
                className="min-h-[26px] min-w-0 grow truncate rounded text-left"
                aria-current={row.id === chosen?.id}
                onClick={() => set((p) => p.set("id", row.id))}
              >
                {row.entry.name}
              </button>
              {row.id !== chosen?.id && savedDraft(shelfDraft(row.id), row.entry) && (
                <span className="shrink-0 text-[0.8rem] text-amber">unsaved</span>
              )}
              {row.archived && (
                <Button look="quiet" className="h-6 px-1" onClick={() => void restore(row.id)}>
                  take back
                </Button>
              )}
            </li>
          ))}
        </ul>
        <div className="mt-2 flex gap-2">
          <Button
            onClick={() =>
              chosen && void add({ ...chosen.entry, name: `${chosen.entry.name} (new)`, sources: { "": "typed" } })
            }
            disabled={!chosen}
          >
            <Plus size={14} aria-hidden /> Add
          </Button>
          <Button look="quiet" aria-pressed={archived} onClick={() => setArchived(!archived)}>
            <Archive size={14} aria-hidden /> {archived ? "Hide put away" : "Show put away"}
          </Button>
        </div>
      </div>
      <div className="flex min-w-0 flex-col gap-3">
        {kind === "filter" && comparing.length > 0 && (
          <CompareFilters entries={comparing} clear={() => set((p) => p.delete("compare"))} />
        )}
        {chosen ? (
          <section aria-label={chosen.entry.name} className="rounded-xl bg-surface p-4">
            <h2 className="sr-only">{chosen.entry.name}</h2>
            <EntryEditor
              key={chosen.id}
              stored={chosen}
              save={(entry, baseRevision) => save(chosen, entry, baseRevision)}
              saveCopy={add}
              offerUndo={offerUndo}
              actions={(draft) => (
                <>
                  <IconButton
                    label={`Copy ${chosen.entry.name}`}
                    onClick={() => void add({ ...draft, name: `${draft.name} (copy)`.slice(0, 200) })}
                  >
                    <Copy size={16} aria-hidden />
                  </IconButton>
                  {(kind === "filter" || kind === "camera") && (
                    <IconButton
                      label="Save the curve as ECSV"
                      onClick={() => {
                        const link = document.createElement("a");
                        link.href = `/api/v1/shelf/${chosen.id}/curve.ecsv`;
                        link.download = `${chosen.entry.name}.ecsv`;
                        link.click();
                      }}
                    >
                      <Download size={16} aria-hidden />
                    </IconButton>
                  )}
                  <IconButton label={`Delete ${chosen.entry.name}`} onClick={() => void remove(chosen)}>
                    <Trash2 size={16} aria-hidden />
                  </IconButton>
                </>
              )}
            />
          </section>
        ) : (
          <section className="rounded-xl bg-surface p-8 text-center text-muted">
            Nothing of this kind is left on the shelf. "Show put away" may bring something back, and u undoes a
            deletion.
          </section>
        )}
      </div>
    </div>
  );
}
