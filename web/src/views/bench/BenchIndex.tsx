import { useQuery } from "@tanstack/react-query";
import { FileUp, Plus } from "lucide-react";
import { useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import type { Scenario } from "@/api/client";
import { useAddScenario } from "@/api/mutations";
import { libraryQuery, scenariosQuery } from "@/api/queries";
import { ComparisonCard } from "@/parts/ComparisonCard";
import { Button } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import { NewComparison } from "@/parts/NewComparison";
import { useStatusLine } from "@/parts/statusLine";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useTitle } from "@/parts/useTitle";

/** All stored comparisons. */
export function BenchIndex() {
  useTitle("Comparisons");
  const go = useNavigate();
  const setStatusLine = useStatusLine();
  const file = useRef<HTMLInputElement>(null);
  const offerUndo = useOfferUndo();
  const rows = useQuery(scenariosQuery);
  const library = useQuery(libraryQuery);
  const add = useAddScenario();
  const open = (body: Scenario) => add(body).then((stored) => void go(`/bench/${stored.id}`), fail);
  const read = async (chosen: File | undefined) => {
    if (!chosen) return;
    try {
      void open(JSON.parse(await chosen.text()) as Scenario);
    } catch (e) {
      toast.error(`${chosen.name} is not JSON: ${(e as Error).message}. A scenario document is accepted.`, {
        duration: 10_000,
      });
    }
  };
  const example = library.data?.examples[0]?.scenario;

  useEffect(() => {
    setStatusLine(rows.data ? `${rows.data.length} ${rows.data.length === 1 ? "comparison" : "comparisons"}` : "");
  }, [setStatusLine, rows.data]);

  return (
    <div
      className="mx-auto max-w-6xl px-6 py-6"
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
        <NewComparison>
          <Button look="lit">
            <Plus size={15} aria-hidden /> New
          </Button>
        </NewComparison>
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
            New compares the light paths of your own rigs on any target. Or look at the example: a supernova remnant
            from a town edge, mono with line filters against colour with and without a dual band.
          </p>
          <Button look="lit" className="mt-4" onClick={() => example && void open(example)} disabled={!example}>
            Open the example
          </Button>
        </div>
      )}
      <ul className="mt-6 grid grid-cols-2 gap-2 max-lg:grid-cols-1">
        {rows.data?.map((row) => (
          <ComparisonCard key={row.id} row={row} offerUndo={offerUndo} />
        ))}
      </ul>
    </div>
  );
}
