import { useState } from "react";
import type { Quantity, RankedFilter } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { clock, ends, fixed } from "@/parts/format";
import { hue } from "@/theme/marks";

type Props = {
  filter: RankedFilter;
  /** Its place among all, from 1. */
  place: number;
  /** Of one that would have to be bought. */
  price: number | null;
  fastest: number;
  letter: string;
  quantity: Quantity;
  inUse: boolean;
  use: () => void;
};

const hours = (s: number) => (s >= 7200 ? `${Number((s / 3600).toPrecision(2))} h` : `${Math.round(s / 60)} min`);

/** A filter in the ranking: its time beside the fastest, its price, and why. */
export function FilterRow({ filter: f, place, price, fastest, letter, quantity, inUse, use }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <li className="grid grid-cols-[1.4rem_14rem_4.5rem_6.8rem_6.2rem_4rem_minmax(0,1fr)_auto] items-center gap-x-2 border-t border-edge/60 py-px text-[0.92rem] first:border-t-0 max-lg:grid-cols-[1.6rem_minmax(0,1fr)_6.5rem_auto]">
      <span className="num text-muted">{place}</span>
      <span className="truncate" title={f.name}>
        {f.name}
      </span>
      <span aria-hidden className="h-2 rounded-full bg-well max-lg:hidden">
        <span
          className="block h-full rounded-full"
          style={{
            width: `${Math.max(3, (fastest / (f.time_to_goal_s ?? fastest)) * 100)}%`,
            background: hue(quantity),
          }}
        />
      </span>
      <span className={`num text-right ${place === 1 ? "font-semibold text-decide" : ""}`}>
        {clock(f.time_to_goal_s)}
      </span>
      <span className="num truncate text-right text-[0.84rem] text-muted max-lg:hidden">
        {ends(f.time_range_s, hours)}
      </span>
      <span className="num text-right text-[0.84rem] text-muted max-lg:hidden" title={price == null ? "" : "Price"}>
        {price == null ? "" : fixed(price, 0)}
      </span>
      <button
        type="button"
        aria-expanded={open}
        aria-label={`Why ${f.name}`}
        onClick={() => setOpen(!open)}
        className={`rounded text-left text-[0.86rem] text-muted hover:text-ink max-lg:hidden ${open ? "" : "truncate"}`}
      >
        {f.why}
      </button>
      <Button
        look="quiet"
        className="h-6 px-2"
        disabled={inUse}
        aria-label={`Use ${f.name} in path ${letter}`}
        onClick={use}
      >
        {inUse ? "in use" : "use"}
      </Button>
    </li>
  );
}
