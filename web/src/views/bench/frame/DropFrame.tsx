import { FileUp } from "lucide-react";
import { type DragEvent, type ReactNode, useRef, useState } from "react";
import { Button } from "@/parts/controls/Button";

type Props = {
  /** Name of the file that is being measured; empty for none. */
  busy: string;
  cancel: () => void;
  measure: (file: File) => void;
  children: ReactNode;
};

/** Where a frame is dropped or chosen: all of what stands in it. */
export function DropFrame({ busy, cancel, measure, children }: Props) {
  const input = useRef<HTMLInputElement>(null);
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
        <Button onClick={() => input.current?.click()} disabled={busy !== ""}>
          <FileUp size={14} aria-hidden /> Choose a frame
        </Button>
        <input
          ref={input}
          type="file"
          accept=".fits,.fit,.fts,.fz,.tif,.tiff,.dng"
          className="sr-only"
          tabIndex={-1}
          aria-label="A frame"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (file) measure(file);
          }}
        />
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
