import { Link } from "react-router";
import type { KitRig } from "@/api/client";

type Props = { rigs: readonly KitRig[]; chosen: readonly string[]; set: (ids: string[]) => void };

/** Which rigs of the kit are compared; the first that is ticked is the baseline. */
export function KitChoice({ rigs, chosen, set }: Props) {
  if (rigs.length === 0)
    return (
      <p className="text-[0.93rem] text-muted">
        The kit has no rig with filters yet.{" "}
        <Link to="/kit" className="text-salt underline underline-offset-4">
          Put one together
        </Link>
      </p>
    );
  return (
    <fieldset className="min-w-0">
      <legend className="text-[0.85rem] text-muted">With</legend>
      {rigs.map((r) => (
        <label key={r.id} className="flex min-h-8 items-center gap-2">
          <input
            type="checkbox"
            checked={chosen.includes(r.id)}
            onChange={(e) => set(e.target.checked ? [...chosen, r.id] : chosen.filter((id) => id !== r.id))}
            className="size-[24px] shrink-0 scale-75 accent-(--salt)"
          />
          <span className="min-w-0 truncate">
            {r.name}{" "}
            <span className="text-[0.86rem] text-muted">
              {r.ready?.telescope_name},{" "}
              {r.ready?.sets.length === 1 ? "one light path" : `${r.ready?.sets.length} light paths`}
            </span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}
