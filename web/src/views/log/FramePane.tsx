import { ChevronLeft, ChevronRight, Eye } from "lucide-react";
import { useEffect, useState } from "react";
import { type FrameInLog, type NightOfLog, previewOf } from "@/api/log";
import { Button, IconButton } from "@/parts/controls/Button";
import { FilterCheck } from "./FilterCheck";
import { MeasureLines } from "./MeasureLines";
import { isLight, neighbour, utc } from "./measures";

type Props = {
  night: NightOfLog;
  frame: FrameInLog;
  choose: (id: string) => void;
  decide: (f: FrameInLog, kept: boolean | null) => void;
};

/** How long each of two frames is shown, ms. */
const BLINK_MS = 600;

/** One frame: its picture, blinked with its neighbour, what the rules say of it, and the user's own word. */
export function FramePane({ night, frame, choose, decide }: Props) {
  const [blinking, setBlinking] = useState(false);
  const other = neighbour(night.frames, frame.id, -1);
  const beside = other && other.id !== frame.id ? other : neighbour(night.frames, frame.id, 1);
  const [shown, setShown] = useState(frame.id);
  useEffect(() => {
    setShown(frame.id);
    if (!blinking || !beside) return;
    const turn = setInterval(() => setShown((s) => (s === frame.id ? beside.id : frame.id)), BLINK_MS);
    return () => clearInterval(turn);
  }, [blinking, frame.id, beside]);
  const what = shown === frame.id ? frame : beside;
  return (
    <section aria-label="Frame" className="rounded-xl bg-surface px-4 py-3" data-testid="frame-pane">
      <div className="flex items-center gap-1">
        <h2 className="min-w-0 grow truncate text-[1.02rem] font-medium" title={frame.path ?? frame.file}>
          {frame.file}
        </h2>
        <IconButton
          label="The frame before"
          onClick={() => choose(neighbour(night.frames, frame.id, -1)?.id ?? frame.id)}
        >
          <ChevronLeft size={16} aria-hidden />
        </IconButton>
        <IconButton label="The next frame" onClick={() => choose(neighbour(night.frames, frame.id, 1)?.id ?? frame.id)}>
          <ChevronRight size={16} aria-hidden />
        </IconButton>
      </div>
      <img
        src={previewOf(shown)}
        alt={`${what?.file ?? ""}, ${what?.filter ?? "no filter"}, ${utc(what?.start_s)} UTC`}
        data-testid="frame-picture"
        className="mt-1 w-full rounded-lg bg-well [image-rendering:pixelated]"
      />
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <Button aria-pressed={blinking} onClick={() => setBlinking(!blinking)} disabled={!beside}>
          <Eye size={14} aria-hidden /> {blinking ? "Stop blinking" : "Blink with its neighbour"}
        </Button>
        {isLight(frame) && (
          <Button onClick={() => decide(frame, !frame.kept)} data-testid="overrule">
            {frame.kept ? "Put it aside" : "Keep it all the same"}
          </Button>
        )}
        {isLight(frame) && frame.path && <MeasureLines night={night.session.id} frame={frame} />}
        {isLight(frame) && frame.path && frame.filter && <FilterCheck night={night.session.id} frame={frame} />}
        {frame.decision && (
          <Button look="quiet" onClick={() => decide(frame, null)}>
            Leave it to the rules
          </Button>
        )}
      </div>
      <div className="mt-2 text-[0.93rem]" data-testid="frame-words">
        {frame.decision && (
          <p>
            {frame.decision === "kept" ? "Kept" : "Put aside"} by you{frame.why ? `: ${frame.why}` : "."}
          </p>
        )}
        {(frame.judged?.reasons ?? []).map((r) => (
          <p key={r.rule}>{r.text}</p>
        ))}
        {isLight(frame) && frame.judged?.reasons.length === 0 && (
          <p className="text-muted">Nothing speaks against it.</p>
        )}
        {frame.gone && <p className="text-warn">Its file is not where it was.</p>}
        {frame.problems.map((p) => (
          <p key={p} className="text-muted">
            {p}
          </p>
        ))}
      </div>
    </section>
  );
}
