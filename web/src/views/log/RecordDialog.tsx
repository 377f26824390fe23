import { useQuery } from "@tanstack/react-query";
import { Copy } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { recordOf, recordTextQuery } from "@/api/log";
import { Button } from "@/parts/controls/Button";
import { FileLink } from "@/parts/controls/FileLink";
import { Sheet } from "@/parts/controls/Sheet";

/** What was taken of a target over all nights, to paste beside a picture. */
export function RecordDialog({ object }: { object: string }) {
  const [open, setOpen] = useState(false);
  const { data, error } = useQuery(recordTextQuery(open ? object : ""));
  const copy = () =>
    navigator.clipboard
      .writeText(data ?? "")
      .then(() => toast.success("The record is copied."))
      .catch(() => toast.error("This browser does not let a page copy: save it as CSV."));
  const actions = (
    <>
      <Button onClick={() => void copy()} disabled={!data}>
        <Copy size={14} aria-hidden /> Copy
      </Button>
      <FileLink href={recordOf(object, "csv")} name={`${object}.csv`}>
        CSV
      </FileLink>
      <FileLink href={recordOf(object, "json")} name={`${object}.json`}>
        JSON
      </FileLink>
    </>
  );
  return (
    <Sheet
      title={`What was taken of ${object}`}
      trigger={<Button look="quiet">Record of {object}</Button>}
      {...{ open, setOpen, actions }}
    >
      {error && <p className="text-warn">{error.message}</p>}
      <pre
        className="num overflow-x-auto rounded-md bg-well p-3 text-[0.88rem] whitespace-pre-wrap"
        data-testid="record"
      >
        {data ?? (error ? "" : "…")}
      </pre>
    </Sheet>
  );
}
