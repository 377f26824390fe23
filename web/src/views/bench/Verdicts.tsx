import { Popover } from "radix-ui";
import type { BenchAnswer, Quantity, Verdict } from "@/api/client";
import { useRested } from "@/parts/useRested";
import { Words } from "@/parts/Words";
import { contenderMark } from "@/theme/marks";

type Props = {
  index: number;
  name: string;
  words: BenchAnswer["rows"][number] | undefined;
  /** What the bench is judged by; null for all that the first path is for. */
  by: Quantity | null;
};

/** A few words a question on the chosen path; each opens its sentence and the formula with its numbers. */
export function Verdicts({ index, name, words, by }: Props) {
  // Said once a drag is over, not at each of its steps.
  const said = useRested(words?.verdicts[0], 1000);
  if (!words) return null;
  const { letter, colour } = contenderMark(index);
  // What is said of the light that is judged stands in the place of what is said of all of it.
  const own = words.verdicts.filter((v) => by !== null && v.quantity === by);
  const verdicts = words.verdicts.filter(
    (v) => (v.quantity == null && !(own.length > 0 && v.about === "time")) || own.includes(v),
  );
  return (
    <section
      aria-label={`Verdict on path ${letter}`}
      data-testid="verdicts"
      className="grid grid-cols-[minmax(7rem,11rem)_repeat(auto-fit,minmax(9.5rem,1fr))] items-start gap-x-5 gap-y-2 rounded-xl bg-surface px-3 py-2 max-lg:grid-cols-3 max-md:grid-cols-1"
    >
      <div className="flex items-center gap-2 self-center max-lg:col-span-full">
        <span
          aria-hidden
          className="num grid size-6 shrink-0 place-items-center rounded-full text-[0.9rem] font-semibold text-ground"
          style={{ background: colour }}
        >
          {letter}
        </span>
        <h2 className="min-w-0 truncate text-[1.02rem] font-medium" title={name}>
          <span className="sr-only">Verdict on </span>
          {name}
        </h2>
      </div>
      <p className="sr-only" aria-live="polite" data-testid="verdict-said">
        {said ? `Path ${letter}. ${said.question}: ${said.text}.` : ""}
      </p>
      {verdicts.map((v) => (
        <OneVerdict key={v.question} verdict={v} />
      ))}
    </section>
  );
}

function OneVerdict({ verdict: v }: { verdict: Verdict }) {
  return (
    <div className="min-w-0">
      <div className="flex items-baseline gap-2 text-[0.86rem] text-muted">
        {v.question}
        <Popover.Root>
          <Popover.Trigger
            className="rounded text-amber underline decoration-dotted underline-offset-3"
            aria-label={`Why: ${v.question}`}
          >
            why
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              aria-label={`${v.question}: the reasons`}
              sideOffset={6}
              collisionPadding={10}
              className="rise z-30 max-h-(--radix-popover-content-available-height) w-[min(38rem,94vw)] overflow-y-auto rounded-xl border border-edge bg-surface p-4 shadow-2xl shadow-black/50"
            >
              <h3 className="mb-1 font-medium">{v.question}: the reasons</h3>
              <p className="mb-2 leading-5" data-testid="verdict-text">
                <Words text={`${v.text}.`} />
              </p>
              <ul className="flex flex-col gap-1.5">
                {v.reasons.map((r) => (
                  <li key={r} className="num text-[0.88rem] leading-5">
                    {r}
                  </li>
                ))}
              </ul>
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      </div>
      <p className="leading-5 font-medium text-decide" title={v.text}>
        <Words text={v.short} />
      </p>
    </div>
  );
}
