import type { ReactNode } from "react";
import type { BenchAnswer, Library, Scenario } from "@/api/client";

type Change = (edit: (draft: Scenario) => void) => void;
export type SceneProps = { scenario: Scenario; library: Library; answer: BenchAnswer | undefined; change: Change };

/** One of the scene's cards. */
export function Card({ title, side, children }: { title: ReactNode; side?: ReactNode; children: ReactNode }) {
  return (
    <div className="min-w-0 rounded-xl bg-surface px-3.5 pt-2 pb-2.5">
      <div className="mb-1 flex h-7 items-center justify-between gap-2">
        <h2 className="text-[1.02rem] font-medium">{title}</h2>
        {side}
      </div>
      <div className="grid grid-cols-2 gap-x-4 gap-y-1.5">{children}</div>
    </div>
  );
}
