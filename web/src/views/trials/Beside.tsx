import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useState } from "react";
import { type BesideAsked, besidePicture, besideQuery, type Trial } from "@/api/trials";
import { Choice } from "@/parts/controls/Choice";
import { Select } from "@/parts/controls/Select";
import { BesideFigures } from "./BesideFigures";
import { JudgeBlind } from "./JudgeBlind";
import { useBlink } from "./useBlink";
import { letter } from "./words";

const SHOWN = [
  { value: "both", label: "Side by side", name: "Side by side" },
  { value: "blink", label: "Blink", name: "Blink" },
  { value: "difference", label: "Difference", name: "Difference" },
] as const;
const ALIKE = [
  { value: "exposure", label: "Light a second", name: "Light a second" },
  { value: "background", label: "The sky's light", name: "The sky's light" },
] as const;
const ITEM = "h-9 rounded-md border border-edge px-3 data-[state=checked]:bg-raised data-[state=checked]:text-salt";
const ROW = "flex flex-wrap gap-1";

/** Two frames of the trial upon each other: one stretch, side by side, blinking, or what one has more. */
export function Beside({ id, trial }: { id: string; trial: Trial }) {
  const frames = (trial.frames ?? []).filter((f) => f.kind != null && f.measure != null);
  const of = (kind: number) => frames.find((f) => f.kind === kind)?.id ?? "";
  const [chosen, setChosen] = useState<{ first?: string; frame?: string }>({});
  const [shown, setShown] = useState<(typeof SHOWN)[number]["value"]>("both");
  const [alike, setAlike] = useState<BesideAsked["alike"]>("exposure");
  const [stack, setStack] = useState(false);
  const [at, setAt] = useState({ x: 0.5, y: 0.5 });
  const q: BesideAsked = {
    first: chosen.first ?? of(0),
    frame: chosen.frame ?? of(1),
    ...at,
    side: 360,
    alike,
    stack_of: stack ? (trial.nights?.[0] ?? "") : "",
    trial: id,
  };
  const figures = useQuery({ ...besideQuery(q), enabled: q.first !== "" && q.frame !== "" });
  if (q.first === "" || q.frame === "") return null;
  const options = frames.map((f) => ({
    value: f.id,
    label: `${letter(f.kind ?? 0)} ${new Date(1000 * f.start_s).toISOString().slice(11, 19)} UTC`,
  }));
  const move = (e: KeyboardEvent) => {
    const step = e.shiftKey ? 0.1 : 0.02;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
    if (!by) return;
    e.preventDefault();
    const within = (v: number) => Math.min(1, Math.max(0, v));
    setAt((a) => ({ x: within(a.x + (by[0] ?? 0)), y: within(a.y + (by[1] ?? 0)) }));
  };
  return (
    <section aria-label="Side by side" className="rounded-xl bg-surface px-5 py-3 print:hidden">
      <h2 className="text-[1.02rem] font-medium">By eye</h2>
      <div className="mt-1 flex flex-wrap items-end gap-3">
        {(["first", "frame"] as const).map((which) => (
          <div key={which} className="w-64">
            <Select
              label={which === "first" ? "First" : "Beside it"}
              value={q[which]}
              options={options}
              onChange={(id) => setChosen((c) => ({ ...c, [which]: id }))}
            />
          </div>
        ))}
        <Choice
          label="How they are shown"
          className={ROW}
          item={ITEM}
          value={shown}
          onChange={setShown}
          options={SHOWN}
        />
        <Choice
          label="What is made alike"
          className={ROW}
          item={ITEM}
          value={alike}
          onChange={setAlike}
          options={ALIKE}
        />
        <label className="flex h-9 items-center gap-2">
          <input type="checkbox" checked={stack} onChange={(e) => setStack(e.target.checked)} />
          Stack its neighbours
        </label>
        <JudgeBlind id={id} q={q} />
      </div>
      {figures.isError ? (
        <p className="mt-2 text-danger">{figures.error.message}</p>
      ) : (
        <>
          <div
            tabIndex={0}
            role="group"
            aria-label="The piece that is shown: the arrow keys move it"
            onKeyDown={move}
            className="mt-2"
          >
            <Pictures q={q} shown={shown} />
          </div>
          <p className="mt-1 text-[0.9rem] text-muted">{figures.data?.told}</p>
          {figures.data && <BesideFigures answer={figures.data} />}
        </>
      )}
    </section>
  );
}

function Pictures({ q, shown }: { q: BesideAsked; shown: (typeof SHOWN)[number]["value"] }) {
  const second = useBlink(shown === "blink");
  const own = { ...q, frame: q.first, stack_of: "" };
  const picture = (asked: BesideAsked, name: string, difference = false) => (
    <img
      src={besidePicture(asked, difference)}
      alt={name}
      className="aspect-square w-full max-w-[30rem] rounded-lg bg-well [image-rendering:pixelated]"
    />
  );
  if (shown === "difference") return picture(q, "What the second has more than the first", true);
  if (shown === "blink") return second ? picture(q, "The second") : picture(own, "The first");
  return (
    <div className="grid grid-cols-2 gap-2">
      {picture(own, "The first")}
      {picture(q, "The second")}
    </div>
  );
}
