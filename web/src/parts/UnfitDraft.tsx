import { useState } from "react";
import { Button } from "./controls/Button";
import { saveFile } from "./save";
import { discardUnfit, unfit } from "./savedDraft";

/** A draft of an earlier visit that no longer fits: nothing of it is used, and nothing of it is lost until it is discarded. */
export function UnfitDraft({ id }: { id: string }) {
  const [text, setText] = useState(() => unfit(id));
  if (text === null) return null;
  return (
    <div role="status" className="flex flex-wrap items-center gap-2 rounded-lg bg-surface px-4 py-2 text-[0.93rem]">
      <p className="min-w-0 grow">
        What you typed here at an earlier visit no longer fits this version, so it was put aside; what is stored stands
        here.
      </p>
      <Button onClick={() => saveFile(`${id}.json`, "application/json", text)}>Save it as a file</Button>
      <Button
        look="danger"
        onClick={() => {
          discardUnfit(id);
          setText(null);
        }}
      >
        Discard it
      </Button>
    </div>
  );
}
