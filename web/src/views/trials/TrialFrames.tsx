import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { logSessionQuery, logSessionsQuery, useFolders, useLogNews } from "@/api/log";
import { designQuery, framesFile, type StoredTrial, type Trial, useGather, usePlayTrial } from "@/api/trials";
import { Button } from "@/parts/controls/Button";
import { FileLink } from "@/parts/controls/FileLink";
import { Select } from "@/parts/controls/Select";
import { fail } from "@/parts/fail";
import { MarkControls, MarkPicture } from "@/views/log/MarkPicture";
import { useMarks } from "@/views/log/useMarks";
import { TrialTable } from "./TrialTable";

type Props = { stored: StoredTrial; change: (how: (t: Trial) => Trial) => Promise<unknown> };

/** The trial's frames: brought from a night of the log, each with its kind, which can be put right by hand. */
export function TrialFrames({ stored, change }: Props) {
  const t = stored.trial;
  const frames = t.frames ?? [];
  return (
    <section aria-label="Frames" className="rounded-xl bg-surface px-5 py-3 print:hidden">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="grow text-[1.02rem] font-medium">Frames</h2>
        {frames.length > 0 && (
          <span className="flex gap-1">
            <FileLink href={framesFile(stored.id, "csv")}>CSV</FileLink>
            <FileLink href={framesFile(stored.id, "ecsv")}>ECSV</FileLink>
          </span>
        )}
      </div>
      <Gather stored={stored} />
      {frames.length > 0 && <TrialTable frames={frames} kinds={t.kinds.length} change={change} />}
    </section>
  );
}

/** Brings frames in: from which night, and what is measured on them. */
function Gather({ stored }: { stored: StoredTrial }) {
  const t = stored.trial;
  const nights = useQuery(logSessionsQuery(""));
  const [gather, play] = [useGather(), usePlayTrial()];
  const folders = useFolders();
  useLogNews();
  const [chosen, setChosen] = useState(t.nights?.[0] ?? "");
  const night = useQuery(logSessionQuery(chosen));
  const design = useQuery(designQuery(stored.id, stored.revision));
  const patch = design.data?.of_a_patch ?? false;
  const first = night.data?.frames.find((f) => f.kept && (f.type == null || f.type === "light"))?.id ?? "";
  const marks = useMarks(patch ? (t.marks?.frame && t.marks.session === chosen ? t.marks.frame : first) : "");
  const bring = () =>
    gather({
      stored,
      nights: [chosen],
      marks: patch ? { frame: marks.frame, session: chosen, ...marks.both() } : null,
    })
      .then((s) => toast.success(`${s.trial.frames?.length ?? 0} frames are in the trial.`))
      .catch(fail);
  const canPlay = (folders.data?.folders.length ?? 0) > 0;
  const played = () =>
    play(stored.id)
      .then(() => toast.success("The stand-in plays the run sheet. Its night comes into the log meanwhile."))
      .catch(fail);
  if (nights.data?.length === 0 && !canPlay)
    return (
      <p className="mt-1 max-w-prose text-muted">
        The log is empty. Take the frames by the run sheet, put their folder into the log, and bring them in here.
      </p>
    );
  return (
    <div className="mt-2 flex flex-col gap-3">
      <div className="flex flex-wrap items-end gap-2">
        <div className="w-72">
          <Select
            label="From the night"
            value={chosen}
            placeholder="a night of the log…"
            options={(nights.data ?? []).map((n) => ({ value: n.id, label: `${n.night} ${n.objects}` }))}
            onChange={setChosen}
            testId="trial-night"
          />
        </div>
        <Button look="lit" onClick={() => void bring()} disabled={!chosen || !design.data || (patch && !marks.ready)}>
          Bring its frames in
        </Button>
        {canPlay && (
          <Button onClick={() => void played()} disabled={folders.data?.reading.playing}>
            {folders.data?.reading.playing ? "Playing…" : "Play it by the stand-in"}
          </Button>
        )}
      </div>
      {patch && marks.ready && (
        <div className="grid max-w-4xl grid-cols-[minmax(0,1fr)_20rem] gap-4 max-md:grid-cols-[minmax(0,1fr)]">
          <MarkPicture marks={marks} />
          <div className="flex flex-col gap-2">
            <p className="text-muted">Mark the patch that is judged, and sky beside it.</p>
            <MarkControls marks={marks} />
          </div>
        </div>
      )}
    </div>
  );
}
