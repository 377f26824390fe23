import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { campaignsQuery, nightSummaryQuery } from "@/api/queries";
import { localTime, nightSite, tonightDate, useSites } from "@/parts/evening";

/** What the foot says of tonight: site, darkness, moon, and the campaign that is under way. */
export function Tonight() {
  const sites = useSites();
  const campaigns = useQuery(campaignsQuery);
  const campaign = campaigns.data?.[0];
  const site = sites.find((s) => s.id === campaign?.campaign.site) ?? sites[0];
  const date = tonightDate(site?.site);
  const summary = useQuery(nightSummaryQuery(site && nightSite(site), date));
  if (!summary.data || !site) return null;
  const { events, clock } = summary.data;
  return (
    <Link
      to="/night"
      className="flex min-w-0 flex-wrap gap-x-3 hover:text-ink sm:ml-auto sm:shrink-0 sm:flex-nowrap sm:pl-4"
      data-testid="tonight"
    >
      <span>
        Tonight, {site.entry.name}:{" "}
        {events.dark_h > 0
          ? `dark ${localTime(events.dusk_s, clock)}–${localTime(events.dawn_s, clock)}`
          : "it does not get dark"}
      </span>
      <span>moon {Math.round(events.moon_lit * 100)} %</span>
      {campaign && <span className="max-w-40 truncate text-amber">{campaign.campaign.title}</span>}
    </Link>
  );
}
