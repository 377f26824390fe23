import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { type StoredTrial, sheetFile, sheetQuery } from "@/api/trials";
import { FileLink } from "@/parts/controls/FileLink";
import { tonightDate, useSites } from "@/parts/evening";
import { letter } from "./words";

/** What is taken when on an evening: to be read beside the telescope, printed, or put into a calendar. */
export function RunSheet({ stored }: { stored: StoredTrial }) {
  const sites = useSites();
  const own = sites.find((s) => s.id === stored.trial.site)?.site;
  const [chosen, setChosen] = useState("");
  const date = chosen || tonightDate(own);
  const sheet = useQuery({ ...sheetQuery(stored.id, stored.revision, date), enabled: own != null });
  const s = sheet.data?.sheet;
  const local = (at: number) => {
    const offsets = sheet.data?.clock ?? [];
    const offset = offsets.findLast((o) => o.from_s <= at) ?? offsets[0];
    return new Date(1000 * (at + (offset?.offset_s ?? 0))).toISOString().slice(11, 16);
  };
  return (
    <section aria-label="Run sheet" className="rounded-xl bg-surface px-5 py-3">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="grow text-[1.02rem] font-medium">Run sheet</h2>
        <input
          type="date"
          aria-label="Evening"
          value={date}
          onChange={(e) => setChosen(e.target.value)}
          className="h-8 rounded-md border border-edge bg-well px-2 print:border-0"
        />
        <span className="flex gap-1 print:hidden">
          <Link
            to={`/night?date=${date}&site=${stored.trial.site}&trial=${stored.id}`}
            className="self-center px-2 text-salt underline underline-offset-4"
          >
            In the night's plan
          </Link>
          <FileLink href={sheetFile(stored.id, date, "csv")}>CSV</FileLink>
          <FileLink href={sheetFile(stored.id, date, "ics")}>Calendar</FileLink>
        </span>
      </div>
      {sheet.isError && <p className="mt-1 text-danger">{sheet.error.message}</p>}
      {s?.told.map((line) => (
        <p key={line} className="mt-1">
          {line}
        </p>
      ))}
      {s && s.slots.length > 0 && (
        <div role="region" aria-label="Slots" tabIndex={0} className="mt-2 max-h-80 overflow-y-auto print:max-h-none">
          <table className="w-full text-[0.9rem]" data-testid="run-sheet">
            <thead className="sticky top-0 bg-surface text-left text-muted">
              <tr>
                <th className="pr-2 font-normal">From</th>
                <th className="pr-2 font-normal">To</th>
                <th className="pr-2 font-normal">Kind</th>
                <th className="font-normal">Before it</th>
              </tr>
            </thead>
            <tbody>
              {s.slots.map((slot, i) => (
                <tr
                  key={slot.from_s}
                  className={i > 0 && s.slots[i - 1]?.block !== slot.block ? "border-t border-edge" : ""}
                >
                  <td className="num pr-2">{local(slot.from_s)}</td>
                  <td className="num pr-2">{local(slot.to_s)}</td>
                  <td className="pr-2">
                    <b className="num text-salt">{letter(slot.kind)}</b> {sheet.data?.names[slot.kind]}
                  </td>
                  <td className="text-muted">{slot.change ? "change and focus" : ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}
