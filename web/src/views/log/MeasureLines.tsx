import { useQuery } from "@tanstack/react-query";
import { Crosshair } from "lucide-react";
import { type KeyboardEvent, type PointerEvent, useState } from "react";
import { type FrameInLog, frameQuery, previewOf, useMeasureLines } from "@/api/log";
import { useKeepEmission } from "@/api/mutations";
import { Button } from "@/parts/controls/Button";
import { Choice } from "@/parts/controls/Choice";
import { Sheet } from "@/parts/controls/Sheet";
import { Slider } from "@/parts/controls/Slider";
import { fail } from "@/parts/fail";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { boxOf, type Mark, movedByKey } from "./boxes";

type Which = "patch" | "background";
const WORDS: Record<Which, string> = { patch: "Patch of the target", background: "Sky beside it" };

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
  const measured = useQuery(frameQuery(frame.id));
  const measure = useMeasureLines(night);
  const [which, setWhich] = useState<Which>("patch");
  const [marks, setMarks] = useState<Record<Which, Mark>>({
    patch: { x: 0.5, y: 0.5 },
    background: { x: 0.12, y: 0.12 },
  });
  const [share, setShare] = useState(10);
  const size = [measured.data?.measured.columns ?? 1, measured.data?.measured.rows ?? 1] as const;
  const move = (to: Mark) => setMarks((m) => ({ ...m, [which]: to }));
  const point = (e: PointerEvent<HTMLButtonElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    move({ x: (e.clientX - box.left) / box.width, y: (e.clientY - box.top) / box.height });
  };
  const key = (e: KeyboardEvent) => {
    const to = movedByKey(marks[which], e.key, e.shiftKey);
    if (to === marks[which]) return;
    e.preventDefault();
    move(to);
  };
  const of = (w: Which) => boxOf(marks[w], share / 100, size);
  const ask = () =>
    void measure.mutateAsync({ frame: frame.id, patch: of("patch"), background: of("background") }).catch(fail);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_20rem] gap-4 max-md:grid-cols-[minmax(0,1fr)]">
      <button
        type="button"
        className="relative block cursor-crosshair self-start overflow-hidden rounded-lg bg-well"
        aria-label={`Place the ${which === "patch" ? "patch" : "background"}: click, or use the arrow keys`}
        onPointerDown={point}
        onKeyDown={key}
        data-testid="marking"
      >
        <img src={previewOf(frame.id)} alt="" className="block w-full [image-rendering:pixelated]" draggable={false} />
        {(["patch", "background"] as const).map((w) => (
          <Box key={w} which={w} box={of(w)} size={size} chosen={w === which} />
        ))}
      </button>
      <div className="flex flex-col gap-3">
        <Choice
          label="What is placed"
          className="flex flex-wrap gap-1"
          item="h-9 rounded-md border border-edge px-3 data-[state=checked]:bg-raised data-[state=checked]:text-salt"
          value={which}
          onChange={setWhich}
          options={(["patch", "background"] as const).map((w) => ({ value: w, name: WORDS[w], label: WORDS[w] }))}
        />
        <Slider
          label="Side of both boxes"
          value={share}
          min={2}
          max={40}
          step={1}
          show={`${share} % of the frame`}
          unit="%"
          onChange={(v) => setShare(Math.min(40, Math.max(2, v)))}
        />
        <p className="text-muted">
          Choose a patch whose brightness is even, and sky near it without the target. The night's clearest frames of
          every filter are opened; stars in the boxes are cut out.
        </p>
        <Button look="lit" className="justify-center" onClick={ask} disabled={measure.isPending || !measured.data}>
          {measure.isPending ? "Measuring…" : "Measure"}
        </Button>
        {measure.data && <Found of={measure.data} />}
      </div>
    </div>
  );
}

type BoxProps = { which: Which; box: ReturnType<typeof boxOf>; size: readonly [number, number]; chosen: boolean };

function Box({ which, box, size, chosen }: BoxProps) {
  const share = (v: number, of: number) => `${(100 * v) / of}%`;
  return (
    <span
      className={`pointer-events-none absolute border-2 ${which === "patch" ? "border-salt" : "border-dashed border-amber"} ${chosen ? "" : "opacity-70"}`}
      style={{
        left: share(box.x, size[0]),
        top: share(box.y, size[1]),
        width: share(box.width, size[0]),
        height: share(box.height, size[1]),
      }}
      data-testid={`box-${which}`}
    />
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
