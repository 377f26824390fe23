import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { targetsQuery } from "@/api/queries";
import { tonightDate } from "@/parts/evening";
import { CompareTarget } from "./CompareTarget";

/** On what: a target by name, and straight to the comparison of one's own light paths. */
export function TargetStep({ rig }: { rig: boolean }) {
  const [text, setText] = useState("");
  const found = useQuery(targetsQuery({ text: text || "Rosette" }));
  return (
    <div className="flex flex-col gap-2">
      <label className="text-[0.85rem] text-muted">
        Find a target
        <input
          value={text}
          placeholder="Rosette, M 33, Sh2-101…"
          onChange={(e) => setText(e.target.value)}
          className="block h-8 w-full rounded-md border border-edge bg-well px-2 text-ink placeholder:text-muted"
        />
      </label>
      <ul className="flex flex-col gap-0.5" aria-label="Targets by that name">
        {found.data?.objects.slice(0, 4).map((o) => (
          <li key={o.name} className="flex items-center gap-2">
            <span className="min-w-0 grow truncate">
              {o.name} <span className="text-muted">{o.other_names.join(", ")}</span>
            </span>
            <CompareTarget quiet name={o.name} date={tonightDate()} />
          </li>
        ))}
      </ul>
      {!rig && (
        <p className="text-[0.85rem] text-muted">
          Without a rig there is the demo's kind of comparison:{" "}
          <Link to="/bench" className="text-salt underline underline-offset-4">
            open the example
          </Link>
        </p>
      )}
    </div>
  );
}
