import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { answerOf, api, type Campaign } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import type { SiteEntry } from "@/parts/evening";
import { contenderMark } from "@/theme/marks";

type Props = {
  campaign: Campaign;
  sites: SiteEntry[];
  change: (how: (c: Campaign) => Campaign) => Promise<void>;
};

/** What stays the same from night to night: framing, light path, gain, subs, site. */
export function Framing({ campaign: c, sites, change }: Props) {
  const [pasted, setPasted] = useState("");
  const rig = c.scenario.contenders[c.contender];
  const edit = (some: Partial<Campaign>) => void change((now) => ({ ...now, ...some }));
  const paste = async () => {
    try {
      const at = await answerOf(api.GET("/api/v1/coordinates", { params: { query: { text: pasted } } }));
      edit({ framing: { ...c.framing, ra_deg: at.ra_deg, dec_deg: at.dec_deg } });
      setPasted("");
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
    }
  };
  const sexagesimal = useQuery({
    queryKey: ["coordinates", c.framing.ra_deg, c.framing.dec_deg],
    queryFn: () =>
      answerOf(
        api.GET("/api/v1/coordinates", { params: { query: { text: `${c.framing.ra_deg} ${c.framing.dec_deg}` } } }),
      ),
  });
  return (
    <section aria-label="What stays the same" className="rounded-xl bg-surface px-4 py-3">
      <h2 className="mb-1 text-[1.02rem] font-medium">What stays the same</h2>
      <dl className="grid grid-cols-[8rem_minmax(0,1fr)] gap-y-1 text-[0.95rem]">
        <dt className="text-muted">Framing</dt>
        <dd className="num" data-testid="framing">
          {sexagesimal.data ? `${sexagesimal.data.ra} ${sexagesimal.data.dec}` : ""}
          <span className="block text-muted">
            {c.framing.ra_deg.toFixed(5)}° {c.framing.dec_deg.toFixed(5)}°
          </span>
        </dd>
        <dt className="text-muted">Light path</dt>
        <dd>
          {contenderMark(c.contender).letter} {rig?.name}
        </dd>
        <dt className="text-muted">Gain, temperature</dt>
        <dd className="num">
          {rig?.gain}, {rig?.sensor_temperature_c} °C
        </dd>
        <dt className="text-muted">Subs</dt>
        <dd>{rig?.exposures.map((e) => `${e.filter?.name ?? "no filter"} ${e.sub_s} s`).join(", ")}</dd>
      </dl>
      <div className="mt-2 flex items-end gap-2">
        <label className="min-w-0 grow text-[0.85rem] text-muted">
          Paste other coordinates, in any usual form
          <input
            value={pasted}
            onChange={(e) => setPasted(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && void paste()}
            placeholder="06 17 13 +22 31 05"
            className="num block h-8 w-full rounded-md border border-edge bg-well px-2 text-ink placeholder:text-muted"
            data-testid="paste-coordinates"
          />
        </label>
        <Button disabled={!pasted} onClick={() => void paste()}>
          Take
        </Button>
      </div>
      <div className="mt-2 grid grid-cols-3 gap-2">
        <NumberField
          label="Position angle"
          unit="°"
          value={c.framing.position_angle_deg ?? 0}
          min={-360}
          max={360}
          onChange={(v) => void change((now) => ({ ...now, framing: { ...now.framing, position_angle_deg: v } }))}
        />
        <NumberField
          label="Clear nights"
          unit="%"
          value={Math.round(c.clear_share * 100)}
          min={1}
          max={100}
          onChange={(v) => edit({ clear_share: v / 100 })}
          testId="clear-share"
        />
        <Select
          label="Site"
          value={c.site}
          options={sites.map((x) => ({ value: x.id, label: x.entry.name }))}
          onChange={(v) => edit({ site: v })}
        />
      </div>
    </section>
  );
}
