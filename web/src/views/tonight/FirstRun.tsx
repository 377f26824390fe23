import { type ReactNode, useState } from "react";
import { RigStep } from "./RigStep";
import { SiteStep } from "./SiteStep";
import { TargetStep } from "./TargetStep";

/** Three steps to one's own answers: where, with what, on which target. Each begins with something sensible, and none must be taken. */
export function FirstRun({ site, rig, withChoice }: { site: boolean; rig: boolean; withChoice: boolean }) {
  const [passed, setPassed] = useState<readonly string[]>([]);
  const pass = (step: string) => setPassed((all) => [...all, step]);
  const at = !site && !passed.includes("site") ? "site" : !rig && !passed.includes("rig") ? "rig" : "target";
  return (
    <section
      aria-label="First steps"
      data-testid="first-run"
      className={`rounded-xl bg-surface px-5 py-4 ${withChoice ? "mb-3" : ""}`}
    >
      <h2 className="text-[1.25rem]">Your own sky and kit, in three steps</h2>
      <p className="mb-3 text-muted">
        Then this page says each evening what to do. Everything can be changed under Kit; any step can be passed over.
      </p>
      <ol className="grid grid-cols-3 gap-3 max-lg:grid-cols-1">
        <Step n={1} name="Site" what="Where you stand, and how bright its sky is." at={at === "site"} done={site}>
          <SiteStep pass={() => pass("site")} />
        </Step>
        <Step n={2} name="Kit" what="Telescope, camera, and the filters in their slots." at={at === "rig"} done={rig}>
          <RigStep pass={() => pass("rig")} />
        </Step>
        <Step
          n={3}
          name="Target"
          what="Straight to a comparison of your light paths."
          at={at === "target"}
          done={false}
        >
          <TargetStep rig={rig} />
        </Step>
      </ol>
    </section>
  );
}

type StepProps = { n: number; name: string; what: string; at: boolean; done: boolean; children: ReactNode };

function Step({ n, name, what, at, done, children }: StepProps) {
  return (
    <li
      aria-current={at ? "step" : undefined}
      className={`rounded-lg px-4 py-3 ${at ? "bg-raised" : "border border-edge max-lg:py-2"}`}
    >
      <h3 className="mb-2 flex items-center gap-2 text-[1.05rem] font-medium">
        <span className="num grid size-6 place-items-center rounded-full border border-edge-strong text-[0.85rem]">
          {n}
        </span>
        {name}
        {done && <span className="text-[0.85rem] font-normal text-muted">there</span>}
      </h3>
      {at ? children : <p className="text-[0.93rem] text-muted">{what}</p>}
    </li>
  );
}
