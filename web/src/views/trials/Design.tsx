import { useQuery } from "@tanstack/react-query";
import { designQuery, type StoredTrial, type Trial } from "@/api/trials";
import { NumberField } from "@/parts/controls/NumberField";
import { clock } from "@/parts/format";
import { range } from "@/parts/range";
import { letter } from "./words";

type Props = { stored: StoredTrial; change: (how: (t: Trial) => Trial) => Promise<unknown> };
type Figure = "matters" | "scatter" | "frames_a_slot" | "change_s";

/** What the model expects, whether it can be seen, and what it takes. */
export function Design({ stored, change }: Props) {
  const { data: d } = useQuery(designQuery(stored.id, stored.revision));
  const own = stored.trial.design;
  const set = (key: Figure | "pairs" | "dearer", value: number | null) =>
    void change((now) => ({ ...now, design: { ...now.design, [key]: value } }));
  const share = (key: "matters" | "scatter", label: string) => (
    <NumberField
      label={label}
      unit="%"
      value={Number((100 * own[key]).toPrecision(3))}
      {...range("TrialDesign", key, 100)}
      onChange={(v) => set(key, v / 100)}
    />
  );
  return (
    <section aria-label="Design" className="rounded-xl bg-surface px-5 py-3">
      <h2 className="text-[1.02rem] font-medium">Design</h2>
      <ul className="mt-1 flex flex-col">
        {d?.names.map((name, k) => (
          <li key={letter(k)}>
            <b className="num text-salt">{letter(k)}</b> {name}
          </li>
        ))}
      </ul>
      <div className="mt-2 flex flex-col gap-1" data-testid="trial-design">
        {d ? d.told.map((line) => <p key={line}>{line}</p>) : <p className="text-muted">Working it out…</p>}
      </div>
      {d && (
        <p className="mt-2 text-[0.95rem]">
          <span className="num text-[1.4rem] text-decide">{d.pairs}</span> pairs in{" "}
          <span className="num">{clock(d.clock_s)}</span>, in the order{" "}
          <span className="num" data-testid="trial-order">
            {d.order.map((block) => block.map(letter).join("")).join(" ")}
          </span>
        </p>
      )}
      <div className="mt-3 grid grid-cols-3 gap-2 max-sm:grid-cols-2 print:hidden">
        {share("matters", "Difference that matters")}
        {share("scatter", "One frame scatters by")}
        <NumberField
          label="Pairs"
          value={own.pairs ?? d?.pairs ?? 2}
          {...range("TrialDesign", "pairs")}
          onChange={(v) => set("pairs", Math.round(v))}
        />
        <NumberField
          label="Frames before a change"
          value={own.frames_a_slot}
          {...range("TrialDesign", "frames_a_slot")}
          onChange={(v) => set("frames_a_slot", Math.round(v))}
        />
        <NumberField
          label="Change and focus"
          unit="s"
          value={own.change_s}
          {...range("TrialDesign", "change_s")}
          onChange={(v) => set("change_s", v)}
        />
        <NumberField
          label={`${letter(1)} costs more by`}
          value={own.dearer ?? 0}
          {...range("TrialDesign", "dearer")}
          onChange={(v) => set("dearer", v)}
        />
      </div>
    </section>
  );
}
