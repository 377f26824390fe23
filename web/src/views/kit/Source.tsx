/** Where a number comes from. */
export function Source({ text }: { text: string }) {
  return (
    <div
      className={`mt-0.5 text-[0.8rem] ${text === "typed" || text.startsWith("imported") ? "text-amber" : "text-muted"}`}
    >
      {text}
    </div>
  );
}
