import type { Contender, ContenderAnswer, FieldError, Library, Scenario } from "@/api/client";

export const STAGES = ["target", "air", "optics", "filter", "sensor", "sub"] as const;
export type Stage = (typeof STAGES)[number];

type Change = (edit: (draft: Scenario) => void) => void;
export type Props = {
  stage: Stage;
  index: number;
  scenario: Scenario;
  library: Library;
  change: Change;
  errors: readonly FieldError[];
  /** What the path comes to, once it is known. */
  answer?: ContenderAnswer | undefined;
};

export type Inner = Props & { contender: Contender; edit: (f: (c: Contender) => void) => void };

export const wrongAt = (errors: readonly FieldError[], path: string) => errors.find((e) => e.path === path)?.message;

export function Title({ children, note }: { children: string; note?: string }) {
  return (
    <div className="mb-2.5">
      <h3 className="font-medium">{children}</h3>
      {note && <p className="text-[0.86rem] text-muted">{note}</p>}
    </div>
  );
}

export const exposureOf = (c: Contender, i: number) => c.exposures[i] as Contender["exposures"][number];
