import { useQuery } from "@tanstack/react-query";
import { Copy } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { at } from "@/api/base";
import type { NightAnswer, NightQuestion, SequenceDocument } from "@/api/client";
import { sequenceQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { Sheet } from "@/parts/controls/Sheet";
import { localTime } from "@/parts/evening";
import { saveFile } from "@/parts/save";

type Props = { question: NightQuestion | null; clock: NightAnswer["clock"]; name: string; disabled: boolean };

/** The plan as the plain table that is copied to whatever runs the camera. */
export function Sequence({ question, clock, name, disabled }: Props) {
  const [open, setOpen] = useState(false);
  const { data } = useQuery(sequenceQuery(open ? question : null));
  const trigger = (
    <Button look="quiet" disabled={disabled} data-testid="sequence">
      Sequence
    </Button>
  );
  const actions = data && <Files data={data} question={question} clock={clock} name={name} />;
  return (
    <Sheet title="What the camera is told" wide {...{ open, setOpen, trigger, actions }}>
      {data ? <Table rows={cellsOf(data, clock)} /> : <p className="text-muted">…</p>}
    </Sheet>
  );
}

const HEAD = ["Start", "Target", "Framing", "Filter", "Slot", "Gain", "Sub", "Count", "Dither", "Refocus"];

/** The rows as they are shown and copied. */
export const cellsOf = (s: SequenceDocument, clock: NightAnswer["clock"]): string[][] =>
  s.rows.map((r) => [
    localTime(Date.parse(r.start) / 1000, clock),
    r.target,
    `${r.coordinates}${r.position_angle_deg == null ? "" : `, angle ${Number(r.position_angle_deg.toFixed(1))}°`}`,
    r.filter,
    r.slot == null ? "–" : String(r.slot),
    `${r.gain}${r.binning > 1 ? `, bin ${r.binning}` : ""}`,
    `${r.sub_s} s`,
    String(r.count),
    r.dither_every === 1 ? "each sub" : `every ${r.dither_every}`,
    [r.refocus_first ? "first" : "", r.refocus_every_min == null ? "" : `every ${r.refocus_every_min} min`]
      .filter(Boolean)
      .join(", ") || "–",
  ]);

function Table({ rows }: { rows: string[][] }) {
  return (
    <table className="w-full text-[0.93rem]" data-testid="sequence-table">
      <thead className="text-left text-[0.82rem] text-muted">
        <tr>
          {HEAD.map((h) => (
            <th key={h} className="py-0.5 pr-3 font-normal">
              {h}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((r, i) => (
          <tr key={`${i}${r[0]}`} className="border-t border-edge/60">
            {r.map((c, k) => (
              <td key={HEAD[k]} className={`py-1 pr-3 align-top ${k === 1 || k === 3 ? "" : "num whitespace-nowrap"}`}>
                {c}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

type FilesProps = { data: SequenceDocument; question: NightQuestion | null; clock: NightAnswer["clock"]; name: string };

function Files({ data, question, clock, name }: FilesProps) {
  const copy = async () => {
    const text = [HEAD, ...cellsOf(data, clock)].map((r) => r.join("\t")).join("\n");
    await navigator.clipboard.writeText(text).then(
      () => toast.success("Copied: paste it into any table."),
      () => toast.error("This browser does not let a page copy: save it as CSV."),
    );
  };
  const csv = async () => {
    const answer = await fetch(at("/api/v1/night/sequence?format=csv"), {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(question),
    });
    if (answer.ok) saveFile(`${name} sequence.csv`, "text/csv", await answer.text());
    else toast.error("The sequence could not be written; try again.");
  };
  return (
    <>
      <Button onClick={() => void copy()}>
        <Copy size={15} aria-hidden /> Copy
      </Button>
      <Button look="quiet" onClick={() => void csv()}>
        CSV
      </Button>
      <Button
        look="quiet"
        onClick={() => saveFile(`${name} sequence.json`, "application/json", `${JSON.stringify(data, null, 2)}\n`)}
      >
        JSON
      </Button>
    </>
  );
}
