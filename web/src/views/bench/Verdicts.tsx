import { Popover } from "radix-ui";
import type { BenchAnswer } from "@/api/client";
import { useRested } from "@/parts/useRested";
import { Words } from "@/parts/Words";
import { contenderMark } from "@/theme/marks";

/** One sentence a question on the chosen path; each opens the formula with its numbers. */
export function Verdicts({
  index,
  name,
  words,
}: {
  index: number;
  name: string;
  words: BenchAnswer["rows"][number] | undefined;
}) {
  // Said once a drag is over, not at each of its steps.
  const said = useRested(words?.verdicts[0], 1000);
  if (!words) return null;
  const { letter, colour } = contenderMark(index);
  return (
    <section
      aria-label={`Verdict on path ${letter}`}
      data-testid="verdicts"
      className="flex flex-col gap-2.5 self-start rounded-xl bg-surface px-4 pt-2 pb-3"
    >
      <div className="flex items-center gap-2">
        <span
          aria-hidden
          className="num grid size-6 place-items-center rounded-full text-[0.9rem] font-semibold text-ground"
          style={{ background: colour }}
        >
          {letter}
        </span>
        <h2 className="min-w-0 truncate text-[1.02rem] font-medium">
          <span className="sr-only">Verdict on </span>
          {name}
        </h2>
      </div>
      <p className="sr-only" aria-live="polite" data-testid="verdict-said">
        {said ? `Path ${letter}. ${said.question}: ${said.text}.` : ""}
      </p>
      {words.verdicts.map((v) => (
        <div key={v.question} className="min-w-0">
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
                  sideOffset={6}
                  collisionPadding={10}
                  className="rise z-30 w-[min(38rem,94vw)] rounded-xl border border-edge bg-surface p-4 shadow-2xl shadow-black/50"
                >
                  <h3 className="mb-1.5 font-medium">{v.question}: the reasons</h3>
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
          <p className="leading-5">
            <Words text={`${v.text}.`} />
          </p>
        </div>
      ))}
    </section>
  );
}
