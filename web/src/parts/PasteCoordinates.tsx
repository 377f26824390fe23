import { useState } from "react";
import { readCoordinates } from "@/api/queries";
import { fail } from "@/parts/fail";
import { Button } from "./controls/Button";

type Props = { label: string; take: (at: { ra_deg: number; dec_deg: number }) => void; testId?: string };

/** Coordinates pasted in any usual form. What cannot be read stays, and why is said. */
export function PasteCoordinates({ label, take, testId }: Props) {
  const [pasted, setPasted] = useState("");
  const paste = async () => {
    try {
      take(await readCoordinates(pasted));
      setPasted("");
    } catch (e) {
      fail(e);
    }
  };
  return (
    <div className="mt-2 flex items-end gap-2">
      <label className="min-w-0 grow text-[0.85rem] text-muted">
        {label}
        <input
          value={pasted}
          onChange={(e) => setPasted(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && void paste()}
          placeholder="06 17 13 +22 31 05"
          className="num block h-8 w-full rounded-md border border-edge bg-well px-2 text-ink placeholder:text-muted"
          data-testid={testId}
        />
      </label>
      <Button disabled={!pasted} onClick={() => void paste()}>
        Take
      </Button>
    </div>
  );
}
