/** A sentence in which the names of lines do not break at their hyphen. */
export function Words({ text }: { text: string }) {
  return text.split(/(H-alpha \+ \[N II\]|H-alpha alone|H-alpha|H-beta|\[O III\]|\[S II\]|\[N II\])/).map((part, i) =>
    i % 2 ? (
      <span key={`${i}${part}`} className="whitespace-nowrap">
        {part}
      </span>
    ) : (
      part
    ),
  );
}
