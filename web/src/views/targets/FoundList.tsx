import type { CatalogueAnswer } from "@/api/client";

type Props = {
  found: CatalogueAnswer | undefined;
  kindLabel: (kind: string) => string;
  chosen: string;
  choose: (name: string) => void;
};

/** The objects that match. */
export function FoundList({ found, kindLabel, chosen, choose }: Props) {
  return (
    <ul
      className="mt-2 flex max-h-[calc(100dvh-16.5rem)] flex-col gap-0.5 overflow-y-auto pr-1"
      aria-label="Objects found"
      tabIndex={0}
    >
      {found?.alike && <li className="px-2.5 py-1 text-[0.86rem] text-amber">No such name; these are called alike.</li>}
      {found?.objects.map((o) => (
        <li key={o.name}>
          <button
            type="button"
            aria-current={o.name === chosen}
            onClick={() => choose(o.name)}
            className={`w-full rounded-lg px-2.5 py-1 text-left ${o.name === chosen ? "bg-raised" : "hover:bg-surface"}`}
          >
            <span className="flex justify-between gap-2">
              <span className="truncate">
                {o.name}
                {o.other_names[0] && <span className="text-muted"> {o.other_names[0]}</span>}
              </span>
              <span className="num shrink-0 text-[0.86rem] text-muted">
                {o.major_arcmin == null ? "–" : `${o.major_arcmin}′`}
              </span>
            </span>
            <span className="block truncate text-[0.82rem] text-muted">
              {kindLabel(o.kind)} · {o.constellation}
              {o.v_mag != null && ` · V ${o.v_mag}`}
            </span>
          </button>
        </li>
      ))}
      {found?.matches === 0 && (
        <li className="p-3 text-muted">Nothing by that name and kind. Leave out a filter, or type less of the name.</li>
      )}
    </ul>
  );
}
