import { ChevronLeft, ChevronRight } from "lucide-react";
import type { Plan } from "@/api/client";
import { IconButton } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { shiftDate } from "@/parts/evening";
import { contenderMark, QUANTITIES } from "@/theme/marks";
import { OverheadsPopover } from "./OverheadsPopover";
import type { Night } from "./useNight";

/** The evening, with the one before and the one after. */
export function Evening({ date, set }: Pick<Night, "date" | "set">) {
  return (
    <div className="flex items-end gap-1 print:hidden">
      <IconButton label="Night before ([)" onClick={() => set("date", shiftDate(date, -1))}>
        <ChevronLeft size={16} aria-hidden />
      </IconButton>
      <label className="block text-[0.85rem] text-muted">
        Evening of
        <input
          type="date"
          value={date}
          onChange={(e) => e.target.value && set("date", e.target.value)}
          className="num block h-8 rounded-md border border-edge bg-well px-2 text-ink"
          data-testid="night-date"
        />
      </label>
      <IconButton label="Next night (])" onClick={() => set("date", shiftDate(date, 1))}>
        <ChevronRight size={16} aria-hidden />
      </IconButton>
    </div>
  );
}

/** Where, and with which rig: a campaign's, or a light path of a comparison. */
export function WithWhat({ sites, site, campaigns, list, campaign, id, scenario, row, paths, set, edit }: Night) {
  const choose = (v: string) =>
    edit((p) => {
      p.delete("row");
      if (v.startsWith("c:")) {
        p.set("campaign", v.slice(2));
        p.delete("site");
        p.delete("bench");
      } else {
        p.set("bench", v.slice(2));
        p.delete("campaign");
      }
    });
  return (
    <>
      <div className="w-36 print:hidden">
        <Select
          label="Site"
          value={site?.id ?? ""}
          options={sites.map((s) => ({ value: s.id, label: s.entry.name }))}
          onChange={(v) => set("site", v)}
          testId="night-site"
        />
      </div>
      <div className="w-56 print:hidden">
        <Select
          label="Campaign or comparison"
          value={campaign ? `c:${campaign.id}` : `b:${id}`}
          options={[
            ...campaigns.map((c) => ({ value: `c:${c.id}`, label: c.campaign.title, group: "Campaigns" })),
            ...(list ?? []).map((s) => ({ value: `b:${s.id}`, label: s.title, group: "Comparisons" })),
          ]}
          onChange={choose}
          placeholder={scenario?.title}
          testId="night-what"
        />
      </div>
      {scenario && (!campaign || paths.length > 1) && (
        <div className="w-52 print:hidden">
          <Select
            label="Light path"
            value={String(row)}
            options={scenario.contenders.flatMap((c, i) =>
              campaign && !paths.includes(i)
                ? []
                : [{ value: String(i), label: `${contenderMark(i).letter} ${c.name}` }],
            )}
            onChange={(v) => set("row", v)}
            testId="night-row"
          />
        </div>
      )}
    </>
  );
}

/** What the plan is for, and what a night costs besides light. */
export function ForWhat({ night: n, plan, filters }: { night: Night; plan: Plan | undefined; filters: string[] }) {
  return (
    <>
      <div className="w-44 print:hidden">
        <Select
          label="Plan for"
          value={n.mode}
          options={[
            { value: "balanced", label: "Balanced progress" },
            { value: "by_moon", label: "The order of the moon" },
            { value: "ha_first", label: "H-alpha first, for framing" },
            { value: "fixed", label: "A fixed list" },
            ...QUANTITIES.flatMap((q) => {
              const served = plan?.totals.find((t) => t.quantity === q);
              return served ? [{ value: q, label: `Most ${served.quantity_name}` }] : [];
            }),
          ]}
          onChange={(v) => n.set("mode", v === "balanced" ? null : v)}
          testId="night-mode"
        />
      </div>
      <OverheadsPopover
        overheads={n.overheads}
        set={n.setOverheads}
        list={n.mode === "fixed" ? filters : []}
        minutes={n.minutes}
        setMinutes={n.setMinutes}
        counts={n.counts}
        setCounts={n.setCounts}
      />
    </>
  );
}
