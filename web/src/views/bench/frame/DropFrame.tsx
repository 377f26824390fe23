import { type DragEvent, type ReactNode, useState } from "react";
import { Button } from "@/parts/controls/Button";
import { FileButton } from "@/parts/controls/FileButton";

type Props = {
  /** Name of the file that is being measured; empty for none. */
  busy: string;
  cancel: () => void;
  measure: (file: File) => void;
  children: ReactNode;
};

/** Where a frame is dropped or chosen: all of what stands in it. */
export function DropFrame({ busy, cancel, measure, children }: Props) {
  const [over, setOver] = useState(false);
  const drop = (e: DragEvent) => {
    setOver(false);
    const file = e.dataTransfer.files[0];
    if (!file) return;
    e.preventDefault();
    measure(file);
  };
  return (
    <div
      className={`rounded-xl border border-dashed p-3 ${over ? "border-salt bg-raised" : "border-edge"}`}
      data-testid="drop-frame"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      {children}
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <FileButton label="A frame" accept=".fits,.fit,.fts,.fz,.tif,.tiff,.dng" take={measure} disabled={busy !== ""}>
          Choose a frame
        </FileButton>
        <p className="text-[0.9rem] text-muted" aria-live="polite">
          {busy
            ? `Measuring ${busy}…`
            : "or drop one here: FITS, TIFF, or a DNG of a stock camera. It is measured, not stored."}
        </p>
        {busy && (
          <Button look="quiet" onClick={cancel}>
            Stop
          </Button>
        )}
      </div>
    </div>
  );
}
