import { Button } from "@/parts/controls/Button";
import { Slider } from "@/parts/controls/Slider";
import type { Placed } from "./fieldGeometry";

type Props = { placed: Placed; put: (change: (now: Placed) => Placed) => void; lay: () => void };

/** Turns the camera, and lays the frame back where it stands best. It is moved by drag, or by the arrows here. */
export function FrameControls({ placed, put, lay }: Props) {
  const nudge = (east: number, north: number) =>
    put((now) => ({ ...now, east: now.east + east, north: now.north + north }));
  return (
    <div className="mt-2 grid grid-cols-[minmax(0,1fr)_auto] items-end gap-3">
      <Slider
        label="Camera turned"
        unit="°"
        value={placed.angle}
        min={-180}
        max={180}
        step={1}
        show={`${placed.angle}°`}
        testId="camera-angle"
        onChange={(angle) => put((now) => ({ ...now, angle }))}
      />
      <div className="flex items-center gap-1" role="group" aria-label="Move the frame">
        {(
          [
            ["East", "←", 5, 0],
            ["North", "↑", 0, 5],
            ["South", "↓", 0, -5],
            ["West", "→", -5, 0],
          ] as const
        ).map(([label, arrow, east, north]) => (
          <Button key={label} look="quiet" title={`5′ ${label.toLowerCase()}`} onClick={() => nudge(east, north)}>
            <span aria-hidden>{arrow}</span>
            <span className="sr-only">5′ {label.toLowerCase()}</span>
          </Button>
        ))}
        <Button look="quiet" title="In the middle, along the longer side" onClick={lay}>
          Lay it best
        </Button>
      </div>
    </div>
  );
}
