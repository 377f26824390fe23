import { Check } from "lucide-react";
import { Checkbox } from "radix-ui";
import type { Campaign } from "@/api/client";
import { contenderMark } from "@/theme/marks";

type Props = { campaign: Campaign; change: (how: (c: Campaign) => Campaign) => Promise<unknown> };

/** The light paths whose frames count: the campaign's own, and others of its comparison, also on one evening. */
export function Paths({ campaign: c, change }: Props) {
  const { contenders } = c.scenario;
  if (contenders.length < 2) return null;
  const also = c.also ?? [];
  const set = (path: number, on: boolean) =>
    void change((now) => ({
      ...now,
      also: on ? [...(now.also ?? []), path].sort((a, b) => a - b) : (now.also ?? []).filter((p) => p !== path),
    }));
  // A path that has brought frames stays: taking it out would take them out as well.
  const used = new Set((c.nights ?? []).flatMap((n) => n.shots.map((s) => s.path)));
  return (
    <section aria-label="Light paths" className="rounded-xl bg-surface px-4 py-3">
      <h2 className="mb-1 text-[1.02rem] font-medium">Light paths that count</h2>
      <ul>
        {contenders.map((path, i) => {
          const { letter } = contenderMark(i);
          const own = i === c.contender;
          return (
            <li key={`${i}${path.name}`} className="flex items-center gap-2 py-0.5 pointer-coarse:min-h-10">
              <Checkbox.Root
                id={`path-${i}`}
                checked={own || also.includes(i)}
                disabled={own || used.has(i)}
                onCheckedChange={(on) => set(i, on === true)}
                className="flex size-5 items-center justify-center rounded border border-edge-strong bg-well disabled:opacity-60"
                data-testid={`path-${i}`}
              >
                <Checkbox.Indicator>
                  <Check size={14} aria-hidden />
                </Checkbox.Indicator>
              </Checkbox.Root>
              <label htmlFor={`path-${i}`}>
                {letter} {path.name}
                {own && <span className="text-muted"> (its goals)</span>}
              </label>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
