import { Copy, Download, Star, Trash2 } from "lucide-react";
import { at } from "@/api/base";
import type { StoredEntry } from "@/api/client";
import { Button, IconButton } from "@/parts/controls/Button";
import { SaveRig } from "./RigActions";

type Props = { entry: StoredEntry; copy: () => void; remove: () => void; own: () => void; usual: () => void };

/** What can be done with a thing of the kit as a whole. */
export function EntryActions({ entry: { id, entry, mine, usual: isUsual }, copy, remove, own, usual }: Props) {
  const saveCurve = () => {
    const link = document.createElement("a");
    link.href = at(`/api/v1/shelf/${id}/curve.ecsv`);
    link.download = `${entry.name}.ecsv`;
    link.click();
  };
  const { kind } = entry.thing;
  const begins = kind === "rig" || kind === "site";
  return (
    <>
      {begins ? (
        <Button look="quiet" aria-pressed={isUsual} disabled={isUsual} onClick={usual}>
          <Star size={14} aria-hidden /> {isUsual ? `The usual ${kind}` : "Make it the usual"}
        </Button>
      ) : (
        <Button look="quiet" aria-pressed={mine} onClick={own}>
          {mine ? "Mine" : "I own it"}
        </Button>
      )}
      <IconButton label={`Copy ${entry.name}`} onClick={copy}>
        <Copy size={16} aria-hidden />
      </IconButton>
      {(kind === "filter" || kind === "camera") && (
        <IconButton label="Save the curve as ECSV" onClick={saveCurve}>
          <Download size={16} aria-hidden />
        </IconButton>
      )}
      {kind === "rig" && <SaveRig id={id} name={entry.name} />}
      <IconButton label={`Delete ${entry.name}`} onClick={remove}>
        <Trash2 size={16} aria-hidden />
      </IconButton>
    </>
  );
}
