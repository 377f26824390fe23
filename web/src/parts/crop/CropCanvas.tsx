import { useEffect, useRef } from "react";
import type { Picture } from "@/api/frames";
import { useWidth } from "../useWidth";
import { type Box, byKey, MEASURING_KEYS, MOVING_KEYS, type Region } from "./region";

type Props = {
  picture: Picture;
  fieldArcsec: number;
  region: Region;
  setRegion: (region: Region) => void;
  label: string;
  height: number;
  box?: Box | null;
  onBox?: (box: Box) => void;
  measuring?: boolean;
  testId?: string;
};

/** One crop on a canvas; wheel and drag move all crops together, a drag while measuring marks a box. */
export function CropCanvas(p: Props) {
  const { picture, fieldArcsec, region, height } = p;
  const canvas = useRef<HTMLCanvasElement>(null);
  const frame = useRef<HTMLDivElement>(null);
  const width = useWidth(frame);
  const drag = useRef<{ x: number; y: number; region: Region } | null>(null);
  // The picture as it came, on a canvas of its own that serves every picture after it.
  const source = useRef<{ canvas: HTMLCanvasElement; holds: Picture | null } | null>(null);
  useEffect(() => {
    const c = canvas.current?.getContext("2d");
    if (!c || width === 0) return;
    c.clearRect(0, 0, width, height);
    source.current ??= { canvas: document.createElement("canvas"), holds: null };
    const from = source.current;
    if (from.holds !== picture) {
      if (from.canvas.width !== picture.width) from.canvas.width = picture.width;
      if (from.canvas.height !== picture.height) from.canvas.height = picture.height;
      from.canvas.getContext("2d")?.putImageData(picture.image, 0, 0);
      from.holds = picture;
    }
    const size = fieldArcsec * region.perArcsec;
    c.imageSmoothingEnabled = size < picture.width;
    c.drawImage(
      from.canvas,
      width / 2 - size / 2 - region.x * region.perArcsec,
      height / 2 - size / 2 + region.y * region.perArcsec,
      size,
      size,
    );
  }, [picture, width, height, region, fieldArcsec]);
  const toArcsec = (e: React.PointerEvent) => {
    const r = e.currentTarget.getBoundingClientRect();
    return [
      (e.clientX - r.left - width / 2) / region.perArcsec + region.x,
      region.y - (e.clientY - r.top - height / 2) / region.perArcsec,
    ] as const;
  };
  // React listens to the wheel passively: only a listener of one's own can keep the page where it is.
  const zoom = useRef((_: number) => {});
  zoom.current = (by) => p.setRegion({ ...region, perArcsec: region.perArcsec * by });
  useEffect(() => {
    const element = canvas.current;
    const onWheel = (e: WheelEvent) => {
      e.preventDefault();
      zoom.current(Math.exp(-e.deltaY / 400));
    };
    element?.addEventListener("wheel", onWheel, { passive: false });
    return () => element?.removeEventListener("wheel", onWheel);
  }, []);
  const start = useRef<readonly [number, number] | null>(null);
  const box = p.box;
  const screen = box && {
    left: width / 2 + (Math.min(box[0], box[2]) - region.x) * region.perArcsec,
    top: height / 2 - (Math.max(box[1], box[3]) - region.y) * region.perArcsec,
    width: Math.abs(box[2] - box[0]) * region.perArcsec,
    height: Math.abs(box[3] - box[1]) * region.perArcsec,
  };
  return (
    <div
      ref={frame}
      role="application"
      aria-label={`${p.label}: ${p.measuring ? MEASURING_KEYS : MOVING_KEYS}`}
      tabIndex={0}
      onKeyDown={(e) => {
        if (e.ctrlKey || e.metaKey || e.altKey) return;
        const next = byKey(e.key, e.shiftKey, region, p.measuring ? (box ?? null) : undefined);
        if (!next) return;
        e.preventDefault();
        if (next.region) p.setRegion(next.region);
        if (next.box) p.onBox?.(next.box);
      }}
      className="relative overflow-hidden rounded-md bg-well"
      style={{ height }}
    >
      <canvas
        ref={canvas}
        width={width}
        height={height}
        role="img"
        aria-label={p.label}
        data-testid={p.testId}
        style={{ touchAction: "none", cursor: p.measuring ? "crosshair" : "grab" }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          if (p.measuring) start.current = toArcsec(e);
          else drag.current = { x: e.clientX, y: e.clientY, region };
        }}
        onPointerMove={(e) => {
          if (p.measuring && start.current) {
            const [x, y] = toArcsec(e);
            p.onBox?.([start.current[0], start.current[1], x, y]);
          } else if (drag.current) {
            const { x, y, region: from } = drag.current;
            p.setRegion({
              ...from,
              x: from.x - (e.clientX - x) / from.perArcsec,
              y: from.y + (e.clientY - y) / from.perArcsec,
            });
          }
        }}
        onPointerUp={() => {
          drag.current = null;
          start.current = null;
        }}
      />
      {screen && <div aria-hidden className="pointer-events-none absolute border-2 border-amber" style={screen} />}
    </div>
  );
}
