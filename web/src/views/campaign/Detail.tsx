import { useQuery } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { Link } from "react-router";
import type { Campaign, StoredCampaign } from "@/api/client";
import { campaignStateQuery } from "@/api/queries";
import { IconButton } from "@/parts/controls/Button";
import { tonightDate, useSites } from "@/parts/evening";
import { TitleField } from "@/parts/TitleField";
import type { useOfferUndo } from "@/parts/useOfferUndo";
import { Framing } from "./Framing";
import { Goals } from "./Goals";
import { Nights } from "./Nights";
import { Paths } from "./Paths";

type Props = {
  stored: StoredCampaign;
  change: (how: (c: Campaign) => Campaign) => Promise<unknown>;
  offerUndo: ReturnType<typeof useOfferUndo>;
  remove: (c: StoredCampaign) => void;
};

/** One campaign: its goals, what stays the same, and its nights. */
export function Detail({ stored, change, remove, offerUndo }: Props) {
  const c = stored.campaign;
  const sites = useSites();
  const date = tonightDate(sites.find((x) => x.id === c.site)?.site);
  const { data: state } = useQuery(campaignStateQuery(stored.id, stored.revision, date));
  return (
    <div className="flex min-w-0 flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <TitleField
          label="Title of the campaign"
          title={c.title}
          rename={(title) => void change((now) => ({ ...now, title }))}
        />
        <Link
          to={`/night?campaign=${stored.id}`}
          className="inline-flex h-8 items-center rounded-md bg-salt px-2.5 font-semibold text-on-salt hover:brightness-110"
        >
          Plan tonight
        </Link>
        <IconButton label="Delete this campaign" onClick={() => remove(stored)}>
          <Trash2 size={16} aria-hidden />
        </IconButton>
      </div>
      <Goals {...{ state, change }} />
      <div className="grid grid-cols-2 gap-3 max-xl:grid-cols-1">
        <div className="flex min-w-0 flex-col gap-3">
          <Framing {...{ sites, change }} campaign={c} />
          <Paths {...{ change }} campaign={c} />
        </div>
        <Nights {...{ stored, date, change, offerUndo }} />
      </div>
    </div>
  );
}
