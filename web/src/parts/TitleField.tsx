type Props = { label: string; title: string; rename: (title: string) => void };

/** A document's title, which is typed where it stands. */
export function TitleField({ label, title, rename }: Props) {
  return (
    <input
      aria-label={label}
      defaultValue={title}
      maxLength={200}
      onBlur={(e) => {
        const typed = e.target.value;
        if (typed.trim() && typed !== title) rename(typed);
      }}
      className="min-w-40 grow rounded bg-transparent px-1 text-[1.3rem] font-medium hover:bg-surface focus:bg-well"
    />
  );
}
