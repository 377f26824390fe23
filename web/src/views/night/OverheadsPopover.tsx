import { Popover, Switch } from "radix-ui";
import type { NightQuestion } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { Card } from "@/parts/controls/Card";
import { NumberField } from "@/parts/controls/NumberField";
import { range, usual } from "@/parts/range";
import { USUAL_COUNT } from "./question";

export type Overheads = Partial<NonNullable<NonNullable<NightQuestion["plan"]>["overheads"]>>;

type Key = Exclude<keyof Overheads, "refocus_on_change" | "setup_in_dark">;
const FIELDS: [Key, string, string][] = [
  ["setup_min", "Set-up", "min"],
  ["flats_min", "Flats at the end", "min"],
  ["refocus_s", "A refocus", "s"],
  ["refocus_every_min", "Refocus every", "min"],
  ["refocus_every_k", "Or every", "K (0: never)"],
  ["temperature_drop_k", "It cools over the night", "K"],
  ["dither_every", "Dither every", "subs"],
  ["settle_s", "Settling", "s"],
  ["flip_s", "Meridian flip", "s"],
  ["least_block_min", "Shortest block", "min"],
];

type Props = {
  overheads: Overheads;
  /** Sets some of them; the rest stay. */
  set: (some: Overheads) => void;
  list: readonly string[];
  minutes: Record<number, number>;
  setMinutes: (exposure: number, minutes: number) => void;
  /** Subs of each filter; null for a list in minutes. */
  counts: Readonly<Record<number, number>> | null;
  setCounts: (counts: Readonly<Record<number, number>> | null) => void;
};

/** Overheads of the night, and the minutes of a fixed list. */
export function OverheadsPopover({ overheads, set, list, minutes, setMinutes, counts, setCounts }: Props) {
  return (
    <Popover.Root>
      <Popover.Trigger className="h-8 rounded px-1.5 text-[0.9rem] text-muted underline decoration-dotted underline-offset-3 hover:text-ink print:hidden">
        overheads{list.length ? " and list" : ""}
      </Popover.Trigger>
      <Card label="Overheads of the night" className="w-[min(24rem,94vw)] p-4">
        {list.length > 0 && (
          <>
            <div className="mb-1 flex items-center gap-1">
              <h3 className="grow font-medium">The list, in this order</h3>
              <Button
                look="quiet"
                className="px-1.5"
                onClick={() => setCounts(counts ? null : Object.fromEntries(list.map((_, i) => [i, USUAL_COUNT])))}
                data-testid="list-unit"
              >
                {counts ? "in minutes instead" : "in subs instead"}
              </Button>
            </div>
            <div className="mb-3 grid grid-cols-2 gap-2.5">
              {list.map((name, i) =>
                counts ? (
                  <NumberField
                    key={`${i}${name}`}
                    label={name}
                    unit="subs"
                    value={counts[i] ?? USUAL_COUNT}
                    {...range("FixedBlock", "subs")}
                    min={0}
                    onChange={(v) => setCounts({ ...counts, [i]: Math.round(v) })}
                    testId={`counts-${i}`}
                  />
                ) : (
                  <NumberField
                    key={`${i}${name}`}
                    label={name}
                    unit="min"
                    value={minutes[i] ?? 60}
                    {...range("FixedBlock", "minutes")}
                    min={0}
                    onChange={(v) => setMinutes(i, v)}
                    testId={`minutes-${i}`}
                  />
                ),
              )}
            </div>
          </>
        )}
        <h3 className="mb-1 font-medium">Overheads</h3>
        <div className="grid grid-cols-2 gap-2.5">
          {FIELDS.map(([key, label, unit]) => (
            <NumberField
              key={key}
              label={label}
              unit={unit}
              value={Number(overheads[key] ?? usual("Overheads", key))}
              {...range("Overheads", key)}
              {...(key === "refocus_every_k" && { min: 0 })}
              onChange={(v) => set({ [key]: key === "refocus_every_k" && v === 0 ? null : v })}
              testId={`overhead-${key}`}
            />
          ))}
        </div>
        <Turn
          id="refocus-on-change"
          label="Refocus on every change of filter (not for parfocal sets)"
          on={overheads.refocus_on_change ?? true}
          set={(v) => set({ refocus_on_change: v })}
        />
        <Turn
          id="setup-in-dark"
          label="Set-up waits for the dark (a polar alignment by stars) and takes its time from it"
          on={overheads.setup_in_dark ?? false}
          set={(v) => set({ setup_in_dark: v })}
        />
      </Card>
    </Popover.Root>
  );
}

type TurnProps = { id: string; label: string; on: boolean; set: (on: boolean) => void };

function Turn({ id, label, on, set }: TurnProps) {
  return (
    <div className="mt-3 flex items-center gap-2">
      <Switch.Root
        id={id}
        checked={on}
        onCheckedChange={set}
        className="relative h-5 w-9 shrink-0 rounded-full border border-edge-strong bg-well data-[state=checked]:bg-salt-deep"
      >
        <Switch.Thumb className="block size-3.5 translate-x-0.5 rounded-full bg-ink transition-transform data-[state=checked]:translate-x-[1.1rem]" />
      </Switch.Root>
      <label htmlFor={id}>{label}</label>
    </div>
  );
}
