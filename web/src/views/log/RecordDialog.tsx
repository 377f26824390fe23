import { useQuery } from "@tanstack/react-query";
import { Copy, Download, X } from "lucide-react";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { toast } from "sonner";
import { recordOf, recordTextQuery } from "@/api/log";
import { Button } from "@/parts/controls/Button";

const file =
  "inline-flex h-8 items-center gap-1.5 rounded-md border border-edge bg-raised px-2.5 text-[0.93rem] hover:bg-edge";

/** What was taken of a target over all nights, to paste beside a picture. */
export function RecordDialog({ object }: { object: string }) {
  const [open, setOpen] = useState(false);
  const { data, error } = useQuery(recordTextQuery(open ? object : ""));
  const copy = () =>
    navigator.clipboard
      .writeText(data ?? "")
      .then(() => toast.success("The record is copied."))
      .catch(() => toast.error("This browser does not let a page copy: save it as CSV."));
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <Button look="quiet">Record of {object}</Button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-shade/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className="rise fixed top-[10vh] left-1/2 z-50 max-h-[82vh] w-[min(46rem,96vw)] -translate-x-1/2 overflow-auto rounded-xl border border-edge bg-surface p-5 shadow-2xl shadow-black/50"
        >
          <div className="mb-2 flex flex-wrap items-center gap-1.5">
            <Dialog.Title className="grow text-lg">What was taken of {object}</Dialog.Title>
            <Button onClick={() => void copy()} disabled={!data}>
              <Copy size={14} aria-hidden /> Copy
            </Button>
            <a className={file} href={recordOf(object, "csv")} download={`${object}.csv`}>
              <Download size={14} aria-hidden /> CSV
            </a>
            <a className={file} href={recordOf(object, "json")} download={`${object}.json`}>
              <Download size={14} aria-hidden /> JSON
            </a>
            <Dialog.Close asChild>
              <Button look="quiet" aria-label="Close" className="px-2">
                <X size={16} aria-hidden />
              </Button>
            </Dialog.Close>
          </div>
          {error && <p className="text-warn">{error.message}</p>}
          <pre
            className="num overflow-x-auto rounded-md bg-well p-3 text-[0.88rem] whitespace-pre-wrap"
            data-testid="record"
          >
            {data ?? (error ? "" : "…")}
          </pre>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
