import { useQuery } from "@tanstack/react-query";
import { damagedQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { saveFile } from "@/parts/save";

/** What is stored and cannot be read: named, with its text to save; the rest goes on. */
export function Damaged() {
  const { data } = useQuery(damagedQuery);
  if (!data?.length) return null;
  return (
    <ul
      role="status"
      className="m-3 flex flex-col gap-1 rounded-lg border border-danger/60 bg-surface px-4 py-2 text-[0.93rem]"
    >
      {data.map((d) => (
        <li key={d.what + d.id} className="flex flex-wrap items-center gap-2">
          <span className="min-w-0 grow">
            The stored {d.what} <b className="font-medium">{d.name}</b> cannot be read: {d.why}. Everything else is
            served.
          </span>
          <Button look="quiet" onClick={() => saveFile(`${d.name}.json`, "application/json", d.document)}>
            Save its text
          </Button>
        </li>
      ))}
    </ul>
  );
}
