import { Popover } from "radix-ui";
import { Card } from "@/parts/controls/Card";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { range } from "@/parts/range";
import type { Hours } from "./question";
import { type Night, USUAL_ABOVE_DEG, USUAL_SUN_DEG } from "./useNight";

/** How dark it is, in words, at the altitudes of the sun that have some. */
const DARK: Readonly<Record<number, string>> = {
  [-18]: "astronomical dark",
  [-15]: "a little twilight",
  [-12]: "nautical twilight",
  [-10]: "bright twilight",
};
const sunWords = (deg: number) => [`${deg}°`.replace("-", "−"), DARK[deg]].filter(Boolean).join(", ");

/** "20:00 to 03:00, sun below −15°, above 30°": what limits the night, as far as it is not the usual. */
export function hoursWords(h: Hours): string {
  const clock = h.from || h.until ? `${h.from ?? "dusk"} to ${h.until ?? "dawn"}` : "dusk to dawn";
  const sun = h.sun === USUAL_SUN_DEG ? "" : `, sun below ${h.sun}°`.replace("-", "−");
  return `${clock}${sun}, above ${h.above}°`;
}

/** The limits of a night: by the sun, by the clock, by height; and the first target's own hours. */
export function HoursPopover({ night: n }: { night: Night }) {
  const { hours: h } = n;
  const offered = n.live.answer?.rules.sun_below_deg ?? [];
  const all = offered.includes(h.sun) ? offered : [h.sun, ...offered];
  return (
    <Popover.Root>
      <Popover.Trigger
        className="h-8 rounded-md border border-edge bg-well px-2.5 text-left text-[0.93rem] hover:border-edge-strong print:hidden"
        data-testid="night-hours"
      >
        {hoursWords(h)}
      </Popover.Trigger>
      <Card label="Limits of the night" className="w-[min(24rem,94vw)] p-4">
        <Select
          label="The sun stands below"
          value={String(h.sun)}
          options={all.map((deg) => ({ value: String(deg), label: sunWords(deg) }))}
          onChange={(v) => n.set("sun", Number(v) === USUAL_SUN_DEG ? null : v)}
          testId="night-sun"
        />
        <div className="mt-3 grid grid-cols-2 gap-2.5">
          <TimeField label="Set-up begins" value={h.from} set={(v) => n.set("from", v)} testId="night-from" />
          <TimeField label="The last sub ends" value={h.until} set={(v) => n.set("until", v)} testId="night-until" />
          <NumberField
            label="Target above"
            unit="°"
            value={h.above}
            {...range("NightLimits", "altitude_above_deg")}
            onChange={(v) => n.set("above", v === USUAL_ABOVE_DEG ? null : String(v))}
            testId="night-above"
          />
        </div>
        <h3 className="mt-3 mb-1 text-[0.93rem]">The first target only</h3>
        <div className="grid grid-cols-2 gap-2.5">
          <TimeField label="Not before" value={h.before} set={(v) => n.set("before", v)} testId="night-before" />
          <TimeField label="Not after" value={h.after} set={(v) => n.set("after", v)} testId="night-after" />
        </div>
        <p className="mt-3 text-[0.85rem] text-muted">
          A time that is left empty sets no limit. Set-up that cannot begin earlier takes its minutes from the dark.
        </p>
      </Card>
    </Popover.Root>
  );
}

type TimeProps = { label: string; value: string | null; set: (time: string | null) => void; testId?: string };

/** A time of day; empty for none. */
export function TimeField({ label, value, set, testId }: TimeProps) {
  return (
    <label className="block min-w-0 text-[0.85rem] text-muted">
      {label}
      <input
        type="time"
        value={value ?? ""}
        onChange={(e) => set(e.target.value || null)}
        className="num block h-8 w-full rounded-md border border-edge bg-well px-2 text-ink"
        data-testid={testId}
      />
    </label>
  );
}
