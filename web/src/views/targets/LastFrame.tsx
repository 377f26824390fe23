import { type DragEvent, useState } from "react";
import type { FrameRig } from "@/api/client";
import { readHeader } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { keyOf } from "@/parts/rigs";
import { useParamsEdit } from "@/parts/useParams";

/** As much of a file as a header may take, bytes. */
const HEADER_BYTES = 2880 * 40;

/** What was read last. */
let last: Answer | null = null;

type Answer = Awaited<ReturnType<typeof readHeader>>;

/** The way back to a frame that was shot: its header, pasted or dropped, brings its middle, angle and rig back. */
export function LastFrame({ object }: { object: string }) {
  const [, edit] = useParamsEdit();
  const [text, setText] = useState("");
  // The object of a header is another one than it was read over: what was understood goes there with it.
  const [answer, setAnswer] = useState(last?.object === object ? last : null);
  const [open, setOpen] = useState(answer !== null);
  const [why, setWhy] = useState("");
  const read = async (header: string) => {
    setWhy("");
    setAnswer(null);
    try {
      const got = await readHeader(header);
      setAnswer(got);
      last = got;
      if (!got.object || !got.placed) return;
      const { object, placed } = got;
      const at = got.header.at;
      const rig = got.header.rig as FrameRig["field"];
      edit((p) => {
        p.set("object", object);
        for (const key of ["east", "north", "with", "panels", "text"]) p.delete(key);
        if (at) p.set("at", `${at.ra_deg.toFixed(5)},${at.dec_deg.toFixed(5)}`);
        p.set("angle", String(Math.round(placed.position_angle_deg * 10) / 10));
        if (rig) p.set("rigs", keyOf(rig));
      });
    } catch (e) {
      setWhy((e as Error).message);
    }
  };
  const drop = async (e: DragEvent) => {
    const file = e.dataTransfer.files[0];
    if (!file) return;
    e.preventDefault();
    await openFile(file);
  };
  const openFile = async (file: File) => {
    const bytes = new Uint8Array(await file.slice(0, HEADER_BYTES).arrayBuffer());
    const letters = new TextDecoder("latin1").decode(bytes);
    const end = /END {77}/.exec(letters);
    await read(end ? letters.slice(0, end.index + 80) : letters);
  };
  return (
    <details
      className="rounded-xl bg-surface px-4 py-3 text-[0.95rem]"
      data-testid="last-frame"
      open={open}
      onToggle={(e) => setOpen(e.currentTarget.open)}
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        setOpen(true);
        void drop(e);
      }}
    >
      <summary className="cursor-pointer hover:text-ink">Back to the framing of a frame that was shot</summary>
      {open && (
        <>
          <label className="mt-2 block text-[0.85rem] text-muted">
            Paste its header, or drop the FITS file here
            <textarea
              rows={4}
              value={text}
              onChange={(e) => setText(e.target.value)}
              placeholder={"OBJCTRA = '06 17 13'\nOBJCTDEC = '+22 31 05'\nPOSANGLE = 20.5"}
              className="num mt-0.5 block w-full rounded-md border border-edge bg-well px-2 py-1 text-[0.85rem] text-ink placeholder:text-muted"
            />
          </label>
          <div className="mt-1.5 flex flex-wrap items-center gap-2">
            <Button disabled={!text.trim()} onClick={() => void read(text)}>
              Take it over
            </Button>
            <label className="flex h-8 cursor-pointer items-center rounded-md px-2 text-muted focus-within:outline-2 hover:text-ink">
              or open a file
              <input
                type="file"
                accept=".fits,.fit,.fts"
                className="sr-only"
                onChange={(e) => {
                  const file = e.target.files?.[0];
                  if (file) void openFile(file);
                  e.target.value = "";
                }}
              />
            </label>
          </div>
          {why && (
            <p role="alert" className="mt-1 text-danger">
              {why}
            </p>
          )}
          {answer && <Understood answer={answer} />}
        </>
      )}
    </details>
  );
}

/** What was understood of a header, from which key, and what was assumed. */
function Understood({ answer }: { answer: Answer }) {
  const { understood, assumed } = answer.header;
  return (
    <div className="mt-2" data-testid="header-understood">
      <table className="w-full text-[0.86rem]">
        <tbody>
          {understood.map((u) => (
            <tr key={u.what} className="align-top">
              <th scope="row" className="pr-3 text-left font-normal whitespace-nowrap text-muted">
                {u.what}
              </th>
              <td className="num pr-3">{u.value}</td>
              <td className="num text-muted">{u.from}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {assumed.map((a) => (
        <p key={a} className="mt-1 text-amber">
          {a}
        </p>
      ))}
    </div>
  );
}
