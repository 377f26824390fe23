import { Plus, Trash2 } from "lucide-react";
import type { Slot } from "@/api/client";
import { Button, IconButton } from "@/parts/controls/Button";
import { type Option, Select } from "@/parts/controls/Select";

const SIDES = [
  { value: "unknown", label: "not looked" },
  { value: "name_to_telescope", label: "name to telescope" },
  { value: "name_to_camera", label: "name to camera" },
];
const NONE = "empty";

type Props = {
  slots: readonly Slot[];
  holder: string;
  filters: readonly Option[];
  edit: (slots: Slot[]) => void;
  wrong: (path: string) => string | undefined;
};

/** The numbered slots of a wheel or drawer: which filter sits in each, which way round, and since when. */
export function SlotTable({ slots, holder, filters, edit, wrong }: Props) {
  const put = (i: number, change: Partial<Slot>) => edit(slots.map((s, k) => (k === i ? { ...s, ...change } : s)));
  const next = Math.max(0, ...slots.map((s) => s.number)) + 1;
  return (
    <div className="mt-4">
      <h3 className="font-medium">{holder === "wheel" ? "The wheel's slots" : "The drawer's filters"}</h3>
      <p className="mb-1 text-[0.85rem] text-muted">
        Flats belong to one filter, one way round: since when it sits so is kept with it.
      </p>
      <ul className="flex flex-col gap-1.5" aria-label="Slots">
        {slots.map((slot, i) => (
          <li
            key={slot.number}
            className="grid grid-cols-[2rem_minmax(0,1fr)_13.5rem_9.5rem_2rem] items-center gap-2 max-md:grid-cols-[2rem_minmax(0,1fr)_2rem]"
          >
            <span className="num text-muted">{slot.number}</span>
            <Select
              hideLabel
              label={`Filter of slot ${slot.number}`}
              value={slot.filter ?? NONE}
              options={[{ value: NONE, label: "empty" }, ...filters]}
              onChange={(v) => put(i, { filter: v === NONE ? null : v, since: today() })}
              testId={`slot-${slot.number}`}
            />
            <div className="max-md:col-start-2">
              <Select
                hideLabel
                label={`Which way round slot ${slot.number}`}
                value={slot.orientation ?? "unknown"}
                options={SIDES}
                onChange={(v) => put(i, { orientation: v as NonNullable<Slot["orientation"]>, since: today() })}
              />
            </div>
            <input
              type="date"
              aria-label={`Since when, slot ${slot.number}`}
              value={slot.since ?? ""}
              onChange={(e) => put(i, { since: e.target.value || null })}
              className="num h-8 w-full rounded-md border border-edge bg-well px-2 max-md:col-start-2"
            />
            <IconButton
              label={`Take slot ${slot.number} away`}
              className="max-md:col-start-3 max-md:row-start-1"
              onClick={() => edit(slots.filter((_, k) => k !== i))}
            >
              <Trash2 size={15} aria-hidden />
            </IconButton>
            {wrong(`slots[${i}].filter`) && (
              <p className="col-start-2 text-[0.82rem] text-danger">{wrong(`slots[${i}].filter`)}</p>
            )}
          </li>
        ))}
      </ul>
      <Button
        look="quiet"
        className="mt-1.5"
        onClick={() => edit([...slots, { number: next, filter: null, orientation: "unknown", since: null }])}
      >
        <Plus size={14} aria-hidden /> Slot
      </Button>
    </div>
  );
}

/** Today's date by this browser's clock, as a slot keeps it. */
const today = () => {
  const d = new Date();
  return `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, "0")}-${String(d.getDate()).padStart(2, "0")}`;
};
