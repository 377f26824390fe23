import { useQuery } from "@tanstack/react-query";
import { offeredRigsQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";

/** Rigs that stored comparisons used and the kit does not hold yet. */
export function OfferedRigs({ take }: { take: (text: string) => void }) {
  const offered = useQuery(offeredRigsQuery);
  if (!offered.data?.length) return null;
  return (
    <section aria-label="From your comparisons" className="mt-4">
      <h2 className="text-[0.95rem] font-medium">From your comparisons</h2>
      <p className="text-[0.85rem] text-muted">Light paths that were used and are no rigs yet.</p>
      <ul className="mt-1 flex flex-col gap-1">
        {offered.data.map((o, i) => (
          <li key={i} className="flex items-center gap-2">
            <span className="min-w-0 grow">
              <span className="block truncate">{o.file.name}</span>
              <span className="block text-[0.82rem] text-muted">
                {o.used === 1 ? "one light path" : `${o.used} light paths`}, {o.file.rig.slots?.length ?? 0} filters
              </span>
            </span>
            <Button look="quiet" onClick={() => take(JSON.stringify(o.file))}>
              Take it
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
