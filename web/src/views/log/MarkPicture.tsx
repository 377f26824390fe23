import type { KeyboardEvent, PointerEvent } from "react";
import { previewOf } from "@/api/log";
import { Choice } from "@/parts/controls/Choice";
import { Slider } from "@/parts/controls/Slider";
import { movedByKey } from "./boxes";
import type { Marks, Which } from "./useMarks";

const WORDS: Record<Which, string> = { patch: "Patch of the target", background: "Sky beside it" };

/** A frame with the two boxes on it: a click or the arrow keys move the one that is chosen. */
export function MarkPicture({ marks }: { marks: Marks }) {
  const point = (e: PointerEvent<HTMLButtonElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    marks.move({ x: (e.clientX - box.left) / box.width, y: (e.clientY - box.top) / box.height });
  };
  const key = (e: KeyboardEvent) => {
    const to = movedByKey(marks.at, e.key, e.shiftKey);
    if (to === marks.at) return;
    e.preventDefault();
    marks.move(to);
  };
  return (
    <button
      type="button"
      className="relative block w-full max-w-[32rem] cursor-crosshair self-start overflow-hidden rounded-lg bg-well"
      aria-label={`Place the ${marks.which === "patch" ? "patch" : "background"}: click, or use the arrow keys`}
      onPointerDown={point}
      onKeyDown={key}
      data-testid="marking"
    >
      <img src={previewOf(marks.frame)} alt="" className="block w-full [image-rendering:pixelated]" draggable={false} />
      {(["patch", "background"] as const).map((w) => (
        <Box key={w} which={w} marks={marks} />
      ))}
    </button>
  );
}

function Box({ which, marks }: { which: Which; marks: Marks }) {
  const [box, { size }] = [marks.box(which), marks];
  const share = (v: number, of: number) => `${(100 * v) / of}%`;
  return (
    <span
      className={`pointer-events-none absolute border-2 ${which === "patch" ? "border-salt" : "border-dashed border-amber"} ${which === marks.which ? "" : "opacity-70"}`}
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

/** Which box is placed, and how large both are. */
export function MarkControls({ marks }: { marks: Marks }) {
  return (
    <>
      <Choice
        label="What is placed"
        className="flex flex-wrap gap-1"
        item="h-9 rounded-md border border-edge px-3 data-[state=checked]:bg-raised data-[state=checked]:text-salt"
        value={marks.which}
        onChange={marks.setWhich}
        options={(["patch", "background"] as const).map((w) => ({ value: w, name: WORDS[w], label: WORDS[w] }))}
      />
      <Slider
        label="Side of both boxes"
        value={marks.share}
        min={2}
        max={40}
        step={1}
        show={`${marks.share} % of the frame`}
        unit="%"
        onChange={marks.setShare}
      />
    </>
  );
}
