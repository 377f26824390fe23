/** Where a number comes from, and where a better one is found. */
export function Source({ text, hint }: { text: string; hint?: string | undefined }) {
  return (
    <div className="mt-0.5 text-[0.8rem] leading-4">
      {text && (
        <span className={text === "typed" || text.startsWith("imported") ? "text-amber" : "text-muted"}>{text}</span>
      )}
      {hint && <span className="block text-muted">{hint}</span>}
    </div>
  );
}
