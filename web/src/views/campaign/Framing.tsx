import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Campaign } from "@/api/client";
import { coordinatesQuery } from "@/api/queries";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import type { SiteEntry } from "@/parts/evening";
import { frameWords, framingLink } from "@/parts/framing";
import { PasteCoordinates } from "@/parts/PasteCoordinates";
import { range } from "@/parts/range";
import { contenderMark } from "@/theme/marks";

type Props = {
  campaign: Campaign;
  sites: SiteEntry[];
  change: (how: (c: Campaign) => Campaign) => Promise<unknown>;
};

/** What stays the same from night to night: framing, light path, gain, subs, site. */
export function Framing({ campaign: c, sites, change }: Props) {
  const rig = c.scenario.contenders[c.contender];
  // Where the campaign is framed, with the rig and the panels of its comparison's frame.
  const frame = c.scenario.frame && { ...c.scenario.frame, at: c.framing };
  const edit = (some: Partial<Campaign>) => void change((now) => ({ ...now, ...some }));
  const sexagesimal = useQuery(coordinatesQuery(c.framing.ra_deg, c.framing.dec_deg));
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
          {frame && (
            <span className="block font-sans">
              <span className="text-muted">{frameWords(frame)}</span>{" "}
              <Link
                className="whitespace-nowrap text-amber underline-offset-2 hover:underline"
                to={framingLink(c.scenario.target.name, frame)}
              >
                Show it on the sky
              </Link>
            </span>
          )}
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
      <PasteCoordinates
        label="Paste other coordinates, in any usual form, or a frame's header"
        take={(at) => edit({ framing: { ...c.framing, ...at } })}
        testId="paste-coordinates"
      />
      <div className="mt-2 grid grid-cols-3 gap-2">
        <NumberField
          label="Position angle"
          unit="°"
          value={c.framing.position_angle_deg ?? 0}
          {...range("CampaignFraming", "position_angle_deg")}
          onChange={(v) => void change((now) => ({ ...now, framing: { ...now.framing, position_angle_deg: v } }))}
        />
        <NumberField
          label="Clear nights"
          unit="%"
          value={Math.round(c.clear_share * 100)}
          {...range("Campaign", "clear_share", 100)}
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
