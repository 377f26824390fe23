import { useQuery } from "@tanstack/react-query";
import { ScanSearch } from "lucide-react";
import { useState } from "react";
import { ProblemError } from "@/api/client";
import { type CopyAsked, copyFramesQuery, type FrameInLog, type SecondFrame, useAskCopy } from "@/api/log";
import { Button } from "@/parts/controls/Button";
import { Choice } from "@/parts/controls/Choice";
import { Sheet } from "@/parts/controls/Sheet";
import { fail } from "@/parts/fail";
import { fixed } from "@/parts/format";
import { CopyFound } from "./CopyFound";
import { MarkControls, MarkPicture } from "./MarkPicture";
import { useMarks } from "./useMarks";

type Props = { night: string; frame: FrameInLog };

/** Whether the copy of the filter before a frame is a good one: two exposures of one patch, step by step. */
export function FilterCheck({ night, frame }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <Sheet
      title={`Is this copy of ${frame.filter ?? "the filter"} a good one?`}
      open={open}
      setOpen={setOpen}
      wide
      trigger={
        <Button>
          <ScanSearch size={14} aria-hidden /> Check the filter
        </Button>
      }
    >
      {open && <Check night={night} frame={frame} />}
    </Sheet>
  );
}

/** What is wrong, without the name of a field that nobody here has typed. */
const said = (e: Error) => (e instanceof ProblemError && e.problem.errors[0]?.message) || e.message;
const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
const key = (f: SecondFrame) => f.frame;
const words = (f: SecondFrame) => `${f.filter} at f/${fixed(f.focal_ratio, 1)}, ${f.night}`;

function Check({ night, frame }: Props) {
  const frames = useQuery(copyFramesQuery(night, frame.id));
  const [chosen, setChosen] = useState("");
  const [byHand, setByHand] = useState(false);
  const second = frames.data?.frames.find((f) => key(f) === chosen) ?? frames.data?.frames[0];
  const [first, other] = [useMarks(frame.id), useMarks(byHand ? (second?.frame ?? "") : "")];
  const ask = useAskCopy();
  if (frames.isError) return <p className="max-w-prose">{capital(said(frames.error))}.</p>;
  if (!frames.data) return <p className="text-muted">Looking for frames of the same target…</p>;
  if (!second) return <NoSecond filter={frames.data.filter} ratio={frames.data.focal_ratio} />;
  const asked: CopyAsked = {
    first: { session: night, frame: frame.id, marks: first.both() },
    second: { session: second.session, frame: second.frame, marks: byHand ? other.both() : null },
    same_copy: second.same_filter,
  };
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_22rem] gap-4 max-md:grid-cols-[minmax(0,1fr)]">
      <div className="flex flex-col gap-3">
        <MarkPicture marks={first} />
        {byHand && <MarkPicture marks={other} />}
      </div>
      <div className="flex flex-col gap-3">
        <Step n={1} title={`This exposure: ${frames.data.filter} at f/${fixed(frames.data.focal_ratio, 1)}`}>
          <MarkControls marks={first} />
        </Step>
        <Step n={2} title="Another one of the same patch">
          <Choice
            label="Second exposure"
            className="flex flex-col gap-1"
            item="rounded-md border border-edge px-3 py-1.5 text-left data-[state=checked]:bg-raised data-[state=checked]:text-salt"
            value={key(second)}
            onChange={setChosen}
            options={frames.data.frames.map((f) => ({ value: key(f), name: words(f), label: words(f) }))}
          />
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={byHand} onChange={(e) => setByHand(e.target.checked)} />
            Mark it by hand, not by its stars
          </label>
          {byHand && <MarkControls marks={other} />}
        </Step>
        <Button
          look="lit"
          className="justify-center"
          onClick={() => void ask.mutateAsync(asked).catch(fail)}
          disabled={ask.isPending || !first.ready || (byHand && !other.ready)}
        >
          {ask.isPending ? "Measuring…" : "Where do its bands lie?"}
        </Button>
      </div>
      {ask.data && ask.variables && (
        <div className="col-span-full">
          <CopyFound of={ask.data} asked={ask.variables} />
        </div>
      )}
    </div>
  );
}

type StepProps = { n: number; title: string; children: React.ReactNode };

function Step({ n, title, children }: StepProps) {
  return (
    <section className="flex flex-col gap-2" aria-label={title}>
      <h3 className="font-medium">
        <span className="text-salt">{n}</span> {title}
      </h3>
      {children}
    </section>
  );
}

/** What to take, where nothing else shows the same patch. */
function NoSecond({ filter, ratio }: { filter: string; ratio: number }) {
  return (
    <div className="flex max-w-prose flex-col gap-2">
      <p>
        One exposure does not tell a copy that is centred too blue from a cone that moves every band: both look like a
        dim line.
      </p>
      <p>
        Take a second one of the same target: through <b>{filter}</b> on a telescope of another focal ratio than f/
        {fixed(ratio, 1)}, or on this telescope through a wider filter of the same line. Three subs of the usual length
        are enough. When they are in the log, come back to this frame.
      </p>
    </div>
  );
}
