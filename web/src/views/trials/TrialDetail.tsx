import { Printer, Trash2 } from "lucide-react";
import type { StoredTrial, Trial } from "@/api/trials";
import { Button, IconButton } from "@/parts/controls/Button";
import { TitleField } from "@/parts/TitleField";
import { Beside } from "./Beside";
import { Design } from "./Design";
import { RunSheet } from "./RunSheet";
import { TrialFrames } from "./TrialFrames";
import { Verdict } from "./Verdict";

type Props = {
  stored: StoredTrial;
  change: (how: (t: Trial) => Trial) => Promise<unknown>;
  remove: (t: StoredTrial) => void;
};

/** One trial: its verdict where there is one, its design, its sheet and its frames. */
export function TrialDetail({ stored, change, remove }: Props) {
  const t = stored.trial;
  const taken = (t.frames?.length ?? 0) > 0;
  return (
    <div className="flex min-w-0 flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <TitleField
          label="Title of the trial"
          title={t.title}
          rename={(title) => void change((now) => ({ ...now, title }))}
        />
        <Button onClick={() => window.print()} className="print:hidden">
          <Printer size={14} aria-hidden /> Print
        </Button>
        <IconButton label="Delete this trial" onClick={() => remove(stored)} className="print:hidden">
          <Trash2 size={16} aria-hidden />
        </IconButton>
      </div>
      {taken && <Verdict stored={stored} />}
      <div className="grid grid-cols-2 gap-3 max-xl:grid-cols-1">
        <Design stored={stored} change={change} />
        <RunSheet stored={stored} />
      </div>
      <TrialFrames stored={stored} change={change} />
      <Beside id={stored.id} trial={t} />
    </div>
  );
}
