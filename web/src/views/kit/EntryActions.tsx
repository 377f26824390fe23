import { Copy, Download, Trash2 } from "lucide-react";
import type { StoredEntry } from "@/api/client";
import { IconButton } from "@/parts/controls/Button";

type Props = { entry: StoredEntry; copy: () => void; remove: () => void };

/** What can be done with a thing of the shelf as a whole. */
export function EntryActions({ entry: { id, entry }, copy, remove }: Props) {
  const saveCurve = () => {
    const link = document.createElement("a");
    link.href = `/api/v1/shelf/${id}/curve.ecsv`;
    link.download = `${entry.name}.ecsv`;
    link.click();
  };
  const { kind } = entry.thing;
  return (
    <>
      <IconButton label={`Copy ${entry.name}`} onClick={copy}>
        <Copy size={16} aria-hidden />
      </IconButton>
      {(kind === "filter" || kind === "camera") && (
        <IconButton label="Save the curve as ECSV" onClick={saveCurve}>
          <Download size={16} aria-hidden />
        </IconButton>
      )}
      <IconButton label={`Delete ${entry.name}`} onClick={remove}>
        <Trash2 size={16} aria-hidden />
      </IconButton>
    </>
  );
}
