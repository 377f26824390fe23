import { Plus, SlidersHorizontal, X } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { Button, IconButton } from "@/parts/controls/Button";
import { Card } from "@/parts/controls/Card";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { range } from "@/parts/range";
import { contenderMark } from "@/theme/marks";
import { TimeField } from "./HoursPopover";
import { targetMark } from "./layout";
import type { ChangeKey, Further } from "./targets";
import type { Night } from "./useNight";

const CHANGES: readonly (readonly [ChangeKey, string])[] = [
  ["best_use", "where the night is best used"],
  ["sinks", "when the one before sinks"],
  ["meridian", "when it passes the meridian"],
  ["at", "at a time"],
  ["alongside", "alongside, on another mount"],
];

/** What follows the first target, and how; and the way to add one. */
export function FurtherTargets({ night: n }: { night: Night }) {
  const nameOf = (i: number) => n.further.found[i]?.name ?? n.further.asked[i]?.what.slice(2) ?? "it";
  return (
    <ul className="flex flex-wrap items-end gap-2 print:hidden" aria-label="Further targets">
      {n.further.asked.map((f, i) => (
        <li key={`${i}${f.what}`} className="flex items-end gap-1.5 rounded-lg bg-surface px-2.5 py-1.5">
          <span className="pb-1.5 text-[0.93rem]">
            then{" "}
            <b className="font-medium" style={{ color: targetMark(i + 1).colour }}>
              {nameOf(i)}
            </b>
          </span>
          <div className="w-64">
            <Select
              label={`How ${nameOf(i)} takes over`}
              hideLabel
              value={f.change}
              options={CHANGES.map(([value, label]) => ({ value, label }))}
              onChange={(v) =>
                n.change(i, { ...f, change: v as ChangeKey, ...(v === "at" && { time: f.time ?? "00:00" }) })
              }
              testId={`change-${i}`}
            />
          </div>
          {f.change === "at" && (
            <input
              type="time"
              aria-label={`When ${nameOf(i)} takes over`}
              value={f.time ?? ""}
              onChange={(e) => e.target.value && n.change(i, { ...f, time: e.target.value })}
              className="num h-8 rounded-md border border-edge bg-well px-2"
              data-testid={`change-at-${i}`}
            />
          )}
          <Limits further={f} usual={n.hours.above} set={(own) => n.change(i, own)} />
          <IconButton label={`Take ${nameOf(i)} out of the night`} onClick={() => n.leave(i)}>
            <X size={15} aria-hidden />
          </IconButton>
        </li>
      ))}
      {n.further.asked.length + 1 < (n.live.answer?.rules.most_targets ?? 2) && (
        <li>
          <Add night={n} />
        </li>
      )}
    </ul>
  );
}

type LimitsProps = { further: Further; usual: number; set: (f: Further) => void };

/** A further target's own limits. */
function Limits({ further: f, usual, set }: LimitsProps) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <IconButton label="Its own limits">
          <SlidersHorizontal size={15} aria-hidden />
        </IconButton>
      </Popover.Trigger>
      <Card label="Limits of this target" className="w-72 p-4">
        <div className="grid grid-cols-2 gap-2.5">
          <NumberField
            label="Above"
            unit="°"
            value={f.above ?? usual}
            {...range("NightLimits", "altitude_above_deg")}
            onChange={(v) => set({ ...f, above: v === usual ? undefined : v })}
          />
          <span />
          <TimeField label="Not before" value={f.before ?? null} set={(v) => set({ ...f, before: v ?? undefined })} />
          <TimeField label="Not after" value={f.after ?? null} set={(v) => set({ ...f, after: v ?? undefined })} />
        </div>
      </Card>
    </Popover.Root>
  );
}

/** A campaign, a comparison, or any target of the catalogue through the first one's rig. */
function Add({ night: n }: { night: Night }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const add = (what: string, change: ChangeKey = "best_use") => {
    n.add({ what, change });
    setOpen(false);
    setName("");
  };
  const campaigns = n.campaigns.filter((c) => c.id !== n.campaign?.id);
  // Another of the campaign's own light paths, at once with the first.
  const beside = n.paths
    .filter((p) => p !== n.row)
    .map((p) => ({
      what: `c:${n.campaign?.id}:${p}`,
      label: `${n.scenario?.target.name} through ${contenderMark(p).letter} ${n.scenario?.contenders[p]?.name}, at once`,
    }));
  const comparisons = (n.list ?? []).filter((s) => n.campaign || s.id !== n.id);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button look="quiet" data-testid="add-target">
          <Plus size={15} aria-hidden /> Another target
        </Button>
      </Popover.Trigger>
      <Card label="Another target for this night" className="w-80 p-3">
        <Choices title="The same campaign" all={beside} add={(what) => add(what, "alongside")} />
        <Choices
          title="Campaigns"
          all={campaigns.map((c) => ({ what: `c:${c.id}`, label: c.campaign.title }))}
          add={add}
        />
        <Choices
          title="Comparisons"
          all={comparisons.map((s) => ({ what: `b:${s.id}:0`, label: s.title }))}
          add={add}
        />
        <form
          onSubmit={(e) => {
            e.preventDefault();
            if (name.trim().length > 2) add(`t:${name.trim()}`);
          }}
        >
          <label className="mt-2 block text-[0.85rem] text-muted">
            Any target of the catalogue, with the first one's rig
            <input
              value={name}
              placeholder="such as NGC 2403, then Enter"
              onChange={(e) => setName(e.target.value)}
              className="block h-8 w-full rounded-md border border-edge bg-well px-2 text-ink placeholder:text-muted"
              data-testid="add-target-name"
            />
          </label>
        </form>
      </Card>
    </Popover.Root>
  );
}

type ChoicesProps = { title: string; all: { what: string; label: string }[]; add: (what: string) => void };

function Choices({ title, all, add }: ChoicesProps) {
  if (all.length === 0) return null;
  return (
    <>
      <h3 className="mt-1 text-[0.85rem] text-muted">{title}</h3>
      <ul>
        {all.map((c) => (
          <li key={c.what}>
            <button
              type="button"
              className="w-full rounded px-2 py-1 text-left hover:bg-raised pointer-coarse:min-h-10"
              onClick={() => add(c.what)}
            >
              {c.label}
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}
