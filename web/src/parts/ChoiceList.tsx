type Props = {
  items: readonly { id: string; title: string; note: string }[];
  chosen: string | undefined;
  choose: (id: string) => void;
};

/** Documents by title, of which one is open. */
export function ChoiceList({ items, chosen, choose }: Props) {
  return (
    <ul className="flex flex-col gap-0.5">
      {items.map(({ id, title, note }) => (
        <li key={id}>
          <button
            type="button"
            aria-current={id === chosen}
            onClick={() => choose(id)}
            className={`w-full truncate rounded-lg px-2.5 py-1 text-left ${id === chosen ? "bg-raised" : "hover:bg-surface"}`}
          >
            {title}
            <span className="block truncate text-[0.82rem] text-muted">{note}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
