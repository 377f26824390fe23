import { type ClipboardEvent, useState } from "react";
import { readCoordinates, readHeader } from "@/api/queries";
import { fail } from "@/parts/fail";
import { Button } from "./controls/Button";

type Place = {
  ra_deg: number;
  dec_deg: number;
  /** Where the text was a frame's header that says how the camera stood. */
  position_angle_deg?: number;
};

type Props = { label: string; take: (at: Place) => void; testId?: string };

/** A text of cards, such as OBJCTRA = '06 17 13', is a frame's header. */
const isHeader = (text: string) => /^\s*[A-Z][A-Z0-9_-]*\s*=/m.test(text);

async function placeOf(text: string): Promise<Place> {
  if (!isHeader(text)) {
    const { ra_deg, dec_deg } = await readCoordinates(text);
    return { ra_deg, dec_deg };
  }
  const { header } = await readHeader(text);
  if (!header.at) throw new Error("This header says no place on the sky.");
  const { ra_deg, dec_deg, position_angle_deg } = header.at;
  return header.turned && position_angle_deg != null ? { ra_deg, dec_deg, position_angle_deg } : { ra_deg, dec_deg };
}

/** Coordinates in any usual form, or the whole header of a frame. What cannot be read stays, and why is said. */
export function PasteCoordinates({ label, take, testId }: Props) {
  const [pasted, setPasted] = useState("");
  const read = async (text: string) => {
    try {
      take(await placeOf(text));
      setPasted("");
    } catch (e) {
      fail(e);
    }
  };
  const paste = () => read(pasted);
  // A field of one line would put a header's lines together.
  const header = (e: ClipboardEvent) => {
    const text = e.clipboardData.getData("text");
    if (!isHeader(text)) return;
    e.preventDefault();
    void read(text);
  };
  return (
    <div className="mt-2 flex items-end gap-2">
      <label className="min-w-0 grow text-[0.85rem] text-muted">
        {label}
        <input
          value={pasted}
          onChange={(e) => setPasted(e.target.value)}
          onPaste={header}
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
