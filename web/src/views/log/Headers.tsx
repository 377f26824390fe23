import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Corrections, frameQuery, type NightOfLog, useCorrect } from "@/api/log";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { Sheet } from "@/parts/controls/Sheet";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { corrected, FIELDS, type Typed, valueWords } from "./corrections";

const typedOf = (c: Corrections): Typed =>
  Object.fromEntries(Object.entries(c).map(([key, v]) => [key, v == null ? "" : String(v)]));

/** What the headers of a night say, from which key, and what stands in its place for all its frames. */
export function Headers({ night, frame }: { night: NightOfLog; frame: string }) {
  const [open, setOpen] = useState(false);
  return (
    <Sheet
      title={`Headers of ${night.session.night}`}
      trigger={<Button look="quiet">Headers</Button>}
      {...{ open, setOpen }}
    >
      {open && <Fields night={night} frame={frame} close={() => setOpen(false)} />}
    </Sheet>
  );
}

function Fields({ night, frame, close }: { night: NightOfLog; frame: string; close: () => void }) {
  const { data } = useQuery(frameQuery(frame));
  const [correct, offerUndo] = [useCorrect(), useOfferUndo()];
  const [typed, setTyped] = useState<Typed>(() => typedOf(night.corrections));
  const [wrong, setWrong] = useState("");
  const said = (data?.measured ?? {}) as Record<string, unknown>;
  const header = (said.header ?? {}) as Record<string, unknown>;
  const assumed = (said.assumed ?? []) as string[];
  const understood = (said.understood ?? {}) as Record<string, string>;
  const keep = async () => {
    const what = corrected(typed);
    if (typeof what === "string") {
      setWrong(`${FIELDS.find((f) => f.key === what)?.label ?? what}: give a number.`);
      return;
    }
    const { id } = night.session;
    const was = night.corrections;
    try {
      await correct({ id, corrections: what });
      offerUndo("The night's headers are corrected", () => correct({ id, corrections: was }));
      close();
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void keep();
      }}
    >
      <p className="text-muted">
        As this frame says it. What you type stands in its place for all frames of the night; nothing is written into
        the files.
      </p>
      <table className="mt-2 w-full text-[0.93rem]">
        <thead className="text-left text-[0.85rem] text-muted">
          <tr>
            <th className="py-0.5 font-normal">What</th>
            <th className="px-3 font-normal">In the header</th>
            <th className="font-normal">Instead</th>
          </tr>
        </thead>
        <tbody>
          {FIELDS.map((f) => (
            <tr key={f.key} className="border-t border-edge/60">
              <td className="py-1 whitespace-nowrap">{f.label}</td>
              <td className="px-3">
                <span className="num">{valueWords(header[f.key], f.unit)}</span>
                {understood[f.key] && <span className="text-muted"> · {understood[f.key]}</span>}
              </td>
              <td className="py-1 whitespace-nowrap">
                {f.choices ? (
                  <div className="w-28">
                    <Select
                      label={`${f.label} instead`}
                      hideLabel
                      value={typed[f.key] ?? ""}
                      placeholder="as it is"
                      options={f.choices.map((c) => ({ value: c, label: c.replace("_", " ") }))}
                      onChange={(v) => setTyped({ ...typed, [f.key]: v })}
                    />
                  </div>
                ) : (
                  <>
                    <input
                      aria-label={`${f.label} instead`}
                      value={typed[f.key] ?? ""}
                      onChange={(e) => setTyped({ ...typed, [f.key]: e.target.value })}
                      className="num h-8 w-28 rounded-md border border-edge bg-well px-2 text-ink"
                    />{" "}
                    <span className="text-muted">{f.unit}</span>
                  </>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {assumed.map((a) => (
        <p key={a} className="mt-1 text-[0.93rem] text-muted">
          {a}
        </p>
      ))}
      {wrong && (
        <p role="alert" className="mt-2 text-warn">
          {wrong}
        </p>
      )}
      <div className="mt-3 flex justify-end gap-2">
        <Button type="submit" look="lit">
          Use for the night
        </Button>
      </div>
    </form>
  );
}
