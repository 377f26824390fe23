import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Copy, FileUp, PencilLine, Plus, Trash2 } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { answerOf, api, type Scenario, type ScenarioRow } from "@/api/client";
import { Button, IconButton } from "@/parts/controls/Button";
import { useStatusLine } from "@/parts/statusLine";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useTitle } from "@/parts/useTitle";

const fail = (e: Error) => toast.error(e.message, { duration: 10_000 });

/** All stored comparisons. */
export function BenchIndex() {
  useTitle("Comparisons");
  const go = useNavigate();
  const client = useQueryClient();
  const setStatusLine = useStatusLine();
  const file = useRef<HTMLInputElement>(null);
  const [renaming, setRenaming] = useState<string | null>(null);
  const rows = useQuery({ queryKey: ["scenarios"], queryFn: () => answerOf(api.GET("/api/v1/scenarios")) });
  const library = useQuery({
    queryKey: ["library"],
    queryFn: () => answerOf(api.GET("/api/v1/library")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const again = useCallback(() => client.invalidateQueries({ queryKey: ["scenarios"] }), [client]);

  const add = useMutation({
    mutationFn: (body: Scenario) => answerOf(api.POST("/api/v1/scenarios", { body })),
    onSuccess: (stored) => void go(`/bench/${stored.id}`),
    onError: fail,
  });
  const duplicate = useMutation({
    mutationFn: (id: string) => answerOf(api.POST("/api/v1/scenarios/{id}/duplicate", { params: { path: { id } } })),
    onSuccess: again,
    onError: fail,
  });
  const offerUndo = useOfferUndo();
  const remove = useMutation({
    mutationFn: (row: ScenarioRow) =>
      answerOf(api.DELETE("/api/v1/scenarios/{id}", { params: { path: { id: row.id } } })),
    onSuccess: (_, row) => {
      offerUndo(`Deleted "${row.title}"`, async () => {
        await answerOf(api.POST("/api/v1/scenarios/{id}/restore", { params: { path: { id: row.id } } }));
        await again();
      });
      return again();
    },
    onError: fail,
  });
  const rename = async (row: ScenarioRow, title: string) => {
    setRenaming(null);
    if (!title.trim() || title === row.title) return;
    try {
      const stored = await answerOf(api.GET("/api/v1/scenarios/{id}", { params: { path: { id: row.id } } }));
      await answerOf(
        api.PUT("/api/v1/scenarios/{id}", {
          params: { path: { id: row.id }, header: { "If-Match": `"${stored.revision}"` } },
          body: { ...stored.scenario, title },
        }),
      );
      await again();
    } catch (e) {
      fail(e as Error);
    }
  };
  const read = async (chosen: File | undefined) => {
    if (!chosen) return;
    try {
      add.mutate(JSON.parse(await chosen.text()) as Scenario);
    } catch (e) {
      toast.error(`${chosen.name} is not JSON: ${(e as Error).message}. A scenario document is accepted.`, {
        duration: 10_000,
      });
    }
  };
  const example = library.data?.examples[0]?.scenario;
  const fresh = () => example && add.mutate({ ...example, title: "New comparison" });

  useEffect(() => {
    setStatusLine(rows.data ? `${rows.data.length} ${rows.data.length === 1 ? "comparison" : "comparisons"}` : "");
  }, [setStatusLine, rows.data]);

  return (
    <div
      className="mx-auto max-w-4xl px-6 py-8"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        void read(e.dataTransfer.files[0]);
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <div className="grow">
          <h1 className="text-2xl">Comparisons</h1>
          <p className="text-muted">One target under one sky, and the light paths you are choosing between.</p>
        </div>
        <Button onClick={() => file.current?.click()}>
          <FileUp size={15} aria-hidden /> Open a file
        </Button>
        <Button look="lit" onClick={fresh} disabled={!example}>
          <Plus size={15} aria-hidden /> New
        </Button>
        <input
          ref={file}
          type="file"
          accept=".json,application/json"
          className="hidden"
          aria-label="Scenario file"
          onChange={(e) => void read(e.target.files?.[0])}
        />
      </div>
      {rows.error && <p className="mt-6 whitespace-pre-line text-danger">{rows.error.message}</p>}
      {rows.data?.length === 0 && (
        <div className="mt-10 rounded-xl bg-surface p-8 text-center">
          <h2 className="text-lg">Nothing here yet.</h2>
          <p className="mx-auto mt-1 max-w-md text-muted">
            Start from the example: a supernova remnant from a town edge, mono with line filters against colour with and
            without a dual band.
          </p>
          <Button look="lit" className="mt-4" onClick={() => example && add.mutate(example)} disabled={!example}>
            Open the example
          </Button>
        </div>
      )}
      <ul className="mt-6 flex flex-col gap-2">
        {rows.data?.map((row) => (
          <li key={row.id} className="group flex items-center gap-3 rounded-xl bg-surface px-4 py-3 hover:bg-raised">
            <div className="min-w-0 grow">
              {renaming === row.id ? (
                <input
                  aria-label="New title"
                  autoFocus
                  defaultValue={row.title}
                  maxLength={200}
                  className="w-full rounded border border-edge-strong bg-well px-2 py-0.5 text-[1.05rem]"
                  onFocus={(e) => e.currentTarget.select()}
                  onBlur={(e) => void rename(row, e.currentTarget.value)}
                  onKeyDown={(e) => {
                    if (e.key === "Enter") e.currentTarget.blur();
                    if (e.key === "Escape") setRenaming(null);
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
            <IconButton label={`Rename ${row.title}`} onClick={() => setRenaming(row.id)}>
              <PencilLine size={16} aria-hidden />
            </IconButton>
            <IconButton label={`Duplicate ${row.title}`} onClick={() => duplicate.mutate(row.id)}>
              <Copy size={16} aria-hidden />
            </IconButton>
            <IconButton label={`Delete ${row.title}`} onClick={() => remove.mutate(row)}>
              <Trash2 size={16} aria-hidden />
            </IconButton>
          </li>
        ))}
      </ul>
    </div>
  );
}
