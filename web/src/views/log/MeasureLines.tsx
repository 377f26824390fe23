import { Crosshair } from "lucide-react";
import { useState } from "react";
import { type FrameInLog, useMeasureLines } from "@/api/log";
import { useKeepEmission } from "@/api/mutations";
import { Button } from "@/parts/controls/Button";
import { Sheet } from "@/parts/controls/Sheet";
import { fail } from "@/parts/fail";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { MarkControls, MarkPicture } from "./MarkPicture";
import { useMarks } from "./useMarks";

/** Marks a patch and a background on a frame, and solves the target's lines from all frames of the night. */
export function MeasureLines({ night, frame }: { night: string; frame: FrameInLog }) {
  const [open, setOpen] = useState(false);
  return (
    <Sheet
      title="How bright its lines are"
      open={open}
      setOpen={setOpen}
      wide
      trigger={
        <Button>
          <Crosshair size={14} aria-hidden /> Measure lines
        </Button>
      }
    >
      {open && <Marking night={night} frame={frame} />}
    </Sheet>
  );
}

function Marking({ night, frame }: { night: string; frame: FrameInLog }) {
  const marks = useMarks(frame.id);
  const measure = useMeasureLines(night);
  const ask = () => void measure.mutateAsync({ frame: frame.id, ...marks.both() }).catch(fail);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_20rem] gap-4 max-md:grid-cols-[minmax(0,1fr)]">
      <MarkPicture marks={marks} />
      <div className="flex flex-col gap-3">
        <MarkControls marks={marks} />
        <p className="text-muted">
          Choose a patch whose brightness is even, and sky near it without the target. The night's clearest frames of
          every filter are opened; stars in the boxes are cut out.
        </p>
        <Button look="lit" className="justify-center" onClick={ask} disabled={measure.isPending || !marks.ready}>
          {measure.isPending ? "Measuring…" : "Measure"}
        </Button>
        {measure.data && <Found of={measure.data} />}
      </div>
    </div>
  );
}

type Lines = NonNullable<ReturnType<typeof useMeasureLines>["data"]>;

/** What was found, and the way to keep it for the target. */
function Found({ of }: { of: Lines }) {
  const [keep, offerUndo] = [useKeepEmission(), useOfferUndo()];
  const kept = async () => {
    await keep({ name: of.target, emission: of.emission });
    offerUndo(`The lines of ${of.target} are kept as measured`, () => keep({ name: of.target, emission: null }));
  };
  return (
    <div className="rounded-lg bg-raised px-3 py-2" role="status" data-testid="lines-found">
      {of.told.map((t) => (
        <p key={t}>{t}</p>
      ))}
      <Button className="mt-2" onClick={() => void kept().catch(fail)}>
        Keep for {of.target}
      </Button>
    </div>
  );
}
