import { useCallback, useState } from "react";
import type { Scenario } from "@/api/client";
import { judgeFrame } from "@/api/frame";
import { useLive } from "@/api/useLive";
import { Select } from "@/parts/controls/Select";
import { nightSite, useSites } from "@/parts/evening";
import { LiveProblem } from "@/parts/LiveProblem";
import { DropFrame } from "./DropFrame";
import { exposureOf, remember } from "./exposureOf";
import { FrameHeader } from "./FrameHeader";
import { FrameNumbers } from "./FrameNumbers";
import { useFrame } from "./useFrame";
import { VerdictOnFrame } from "./VerdictOnFrame";

type Props = {
  scenario: Scenario;
  contender: number;
  letter: string;
  change: (edit: (draft: Scenario) => void) => void;
};

/** A test frame against the model of the light path that it was taken through. */
export function FramePanel({ scenario, contender, letter, change }: Props) {
  const { frame, set, measure, cancel, busy, why } = useFrame();
  const [chosen, setChosen] = useState<number | null>(null);
  const exposures = scenario.contenders[contender]?.exposures ?? [];
  const exposure = Math.min(chosen ?? exposureOf(exposures, frame?.header.filter), exposures.length - 1);
  const sites = useSites();
  const own = sites.find((s) => s.mine) ?? sites[0];
  const site = own ? nightSite(own) : null;
  const question = JSON.stringify(frame && { scenario, contender, exposure, frame, site });
  const ask = useCallback(
    async (text: string, signal: AbortSignal) => (text === "null" ? undefined : judgeFrame(JSON.parse(text), signal)),
    [],
  );
  const { answer, problem, againInS } = useLive(question, ask);
  return (
    <div className="flex flex-col gap-3" data-testid="frame-panel">
      <DropFrame {...{ busy, cancel, measure: (file) => void measure(file) }}>
        {frame ? (
          <p className="text-[0.95rem]">
            <b className="font-medium">{frame.file}</b>, {frame.columns} × {frame.rows} px
            {frame.cfa && `, ${frame.cfa}`}, judged as a frame of path {letter}
          </p>
        ) : (
          <p className="max-w-prose leading-6">
            Take one sub as you mean to take them all and drop it here: it says whether the sub is long enough, what
            clips, whether the stars are as they should be, and whether the sky is the one assumed above.
          </p>
        )}
        {why && (
          <p role="alert" className="mt-2 text-danger">
            {why}
          </p>
        )}
      </DropFrame>
      {frame && exposures.length > 1 && (
        <div className="w-64">
          <Select
            label="Taken through"
            value={String(exposure)}
            options={exposures.map((e, i) => ({ value: String(i), label: e.filter?.name ?? "no filter" }))}
            onChange={(v) => {
              setChosen(Number(v));
              remember(frame.header.filter, exposures[Number(v)]);
            }}
          />
        </div>
      )}
      {frame && <LiveProblem problem={problem} againInS={againInS} scenario={scenario} />}
      {frame && answer && <VerdictOnFrame {...{ verdict: answer, scenario, contender, exposure, change }} />}
      {frame && (
        <div className="grid gap-3 lg:grid-cols-2">
          <FrameHeader frame={frame} set={set} />
          <FrameNumbers frame={frame} />
        </div>
      )}
    </div>
  );
}
