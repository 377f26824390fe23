import type { ReactNode } from "react";

/** A part of the page with its heading. */
export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="rounded-xl bg-surface px-5 py-4">
      <h2 className="text-lg">{title}</h2>
      {children}
    </section>
  );
}

/** A moment in the reader's own words. */
export const moment = (at: string) =>
  new Date(at).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });

export const field = "h-9 rounded-md border border-edge bg-well px-3 text-ink";
