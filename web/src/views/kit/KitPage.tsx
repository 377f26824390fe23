import { useQuery } from "@tanstack/react-query";
import { Archive, Plus } from "lucide-react";
import { useCallback, useEffect, useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import { shelfQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { Choice } from "@/parts/controls/Choice";
import { useCommands } from "@/parts/shortcuts";
import { useStatusLine } from "@/parts/statusLine";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { CompareFilters } from "./CompareFilters";
import { EntryActions } from "./EntryActions";
import { EntryEditor } from "./EntryEditor";
import { KitList } from "./KitList";
import { NewRig } from "./RigActions";
import { useShelf } from "./useShelf";

const KINDS = [
  ["rig", "Rigs"],
  ["site", "Sites"],
  ["telescope", "Telescopes"],
  ["filter", "Filters"],
  ["camera", "Cameras"],
] as const;

/** The kit: rigs, sites and what they are made of, one's own before what is on offer, and where each number comes from. */
export function KitPage() {
  const [params, set] = useParamsEdit();
  const go = useNavigate();
  const setStatusLine = useStatusLine();
  const [archived, setArchived] = useState(false);
  const shelf = useQuery(shelfQuery(archived));
  const kind = KINDS.find(([k]) => k === params.get("kind"))?.[0] ?? "rig";
  const rows = useMemo(() => shelf.data?.filter((s) => s.entry.thing.kind === kind) ?? [], [shelf.data, kind]);
  const compared = useMemo(() => new Set((params.get("compare") ?? "").split(",").filter(Boolean)), [params]);
  const chosen = rows.find((s) => s.id === params.get("id")) ?? rows[0];
  const offerUndo = useOfferUndo();
  const choose = useCallback((id: string) => set((p) => p.set("id", id)), [set]);
  const { add, remove, restore, save, own, usual } = useShelf(choose, offerUndo);
  const toKind = useCallback(
    (k: string) =>
      set((p) => {
        p.set("kind", k);
        p.delete("id");
      }),
    [set],
  );
  useTitle(`${KINDS.find(([k]) => k === kind)?.[1]}, kit`);
  useCommands(
    useMemo(
      () => [
        ...KINDS.map(([k, label]) => ({
          id: `kit-${k}`,
          label: `Kit: ${label}`,
          run: () => toKind(k),
        })),
        { id: "to-buy", label: "What to buy next", run: () => void go("/kit/to-buy") },
      ],
      [toKind, go],
    ),
  );
  useEffect(() => {
    setStatusLine(
      shelf.data
        ? `${shelf.data.filter((s) => s.mine).length} things of mine, ${shelf.data.filter((s) => !s.mine).length} on offer. Shipped values are typical, from memory: replace them by your own.`
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
        <div className="mb-2 flex items-baseline gap-3">
          <h1 className="grow text-[1.3rem]">Kit</h1>
          <Link to="/kit/to-buy" className="text-[0.93rem] text-salt underline underline-offset-4">
            What to buy next
          </Link>
        </div>
        <Choice
          label="Kind"
          className="mb-2 flex flex-wrap rounded-2xl bg-surface p-0.5"
          value={kind}
          onChange={toKind}
          options={KINDS.map(([value, label]) => ({ value, label }))}
        />
        {shelf.error && <p className="text-danger">{shelf.error.message}</p>}
        <KitList
          label={KINDS.find(([k]) => k === kind)?.[1] ?? ""}
          rows={rows}
          chosen={chosen?.id}
          compared={kind === "filter" ? compared : undefined}
          {...{ toggle, choose }}
          restore={(id) => void restore(id)}
        />
        {kind === "rig" ? (
          <NewRig shelf={shelf.data ?? []} add={(e) => void add(e)} choose={choose} />
        ) : (
          <div className="mt-2 flex gap-2">
            <Button
              onClick={() => chosen && void add({ ...chosen.entry, name: `${chosen.entry.name} (new)`.slice(0, 200) })}
              disabled={!chosen}
            >
              <Plus size={14} aria-hidden /> Add
            </Button>
            <Button look="quiet" aria-pressed={archived} onClick={() => setArchived(!archived)}>
              <Archive size={14} aria-hidden /> {archived ? "Hide put away" : "Show put away"}
            </Button>
          </div>
        )}
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
                <EntryActions
                  entry={chosen}
                  copy={() => void add({ ...draft, name: `${draft.name} (copy)`.slice(0, 200) })}
                  remove={() => void remove(chosen)}
                  own={() => void own(chosen)}
                  usual={() => void usual(chosen)}
                />
              )}
            />
          </section>
        ) : (
          <section className="rounded-xl bg-surface p-8 text-center text-muted">
            {kind === "rig"
              ? "A rig is a telescope, a camera and the filters in their slots. Put one together, or read one from a file: comparisons, plans and rankings then begin with it."
              : 'Nothing of this kind is left on the shelf. "Show put away" may bring something back, and u undoes a deletion.'}
          </section>
        )}
      </div>
    </div>
  );
}
