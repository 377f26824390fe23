import { Download, Plus } from "lucide-react";
import { toast } from "sonner";
import { at } from "@/api/base";
import type { ShelfEntry, StoredEntry } from "@/api/client";
import { useReadRig } from "@/api/mutations";
import { bareRig } from "@/parts/bareRig";
import { Button, IconButton } from "@/parts/controls/Button";
import { FileButton } from "@/parts/controls/FileButton";
import { fail } from "@/parts/fail";
import { OfferedRigs } from "./OfferedRigs";

/** Saves a rig with all its parts as a file. */
export function SaveRig({ id, name }: { id: string; name: string }) {
  const save = () => {
    const link = document.createElement("a");
    link.href = at(`/api/v1/kit/rigs/${id}/file`);
    link.download = `${name}.json`;
    link.click();
  };
  return (
    <IconButton label={`Save ${name} as a file`} onClick={save}>
      <Download size={16} aria-hidden />
    </IconButton>
  );
}

/** A rig to begin with: the first telescope and camera of the shelf, which are one's own where there are any. */
function begun(shelf: readonly StoredEntry[]): ShelfEntry | null {
  const first = (kind: string) => shelf.find((e) => e.entry.thing.kind === kind)?.id;
  const [telescope, camera] = [first("telescope"), first("camera")];
  if (!telescope || !camera) return null;
  return { name: "New rig", sources: {}, thing: { kind: "rig", item: bareRig(telescope, camera) } };
}

type Props = { shelf: readonly StoredEntry[]; add: (entry: ShelfEntry) => void; choose: (id: string) => void };

/** New rigs: typed, from a file, or from what old comparisons used. */
export function NewRig({ shelf, add, choose }: Props) {
  const read = useReadRig();
  const take = async (text: string) => {
    try {
      choose((await read(text)).id);
      toast.success("The rig is in the kit");
    } catch (e) {
      fail(e);
    }
  };
  const entry = begun(shelf);
  return (
    <>
      <div className="mt-2 flex flex-wrap gap-2">
        <Button onClick={() => entry && add(entry)} disabled={!entry}>
          <Plus size={14} aria-hidden /> New rig
        </Button>
        <FileButton
          look="quiet"
          label="A rig's file"
          accept="application/json,.json"
          take={(file) => void file.text().then(take)}
        >
          From a file
        </FileButton>
      </div>
      <OfferedRigs take={(text) => void take(text)} />
    </>
  );
}
