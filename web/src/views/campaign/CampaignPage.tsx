import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import type { Campaign, StoredCampaign } from "@/api/client";
import { useRemoveCampaign, useRestoreCampaign, useSaveCampaign } from "@/api/mutations";
import { campaignsQuery } from "@/api/queries";
import { ChoiceList } from "@/parts/ChoiceList";
import { fail } from "@/parts/fail";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { Begin } from "./Begin";
import { Detail } from "./Detail";

/** Campaigns: goals that fill, nights that were shot, and when it will be finished. */
export function CampaignPage() {
  const [params, edit] = useParamsEdit();
  const campaigns = useQuery(campaignsQuery);
  const [save, removeOne, restore] = [useSaveCampaign(), useRemoveCampaign(), useRestoreCampaign()];
  const list = campaigns.data ?? [];
  const wanted = params.get("id");
  // One that was just begun may still be on its way into the list: nothing else is shown in its place.
  const other = wanted && campaigns.isFetching ? undefined : list[0];
  const chosen = list.find((c) => c.id === wanted) ?? other;
  useTitle(chosen?.campaign.title ?? "Campaigns");
  const offerUndo = useOfferUndo();
  // One save after another, each made from what the one before it left: quick typing loses nothing.
  const saving = useRef<Promise<unknown>>(Promise.resolve());
  const change = (id: string, how: (c: Campaign) => Campaign) => {
    saving.current = saving.current.then(() => save({ id, how }).catch(fail));
    return saving.current;
  };
  const remove = (c: StoredCampaign) => offerUndo(`${c.campaign.title} deleted`, () => restore(c.id), removeOne(c.id));
  return (
    <div className="grid grid-cols-[16rem_minmax(0,1fr)] gap-4 px-5 py-3 max-lg:grid-cols-[minmax(0,1fr)]">
      <div>
        <h1 className="mb-2 text-[1.3rem]">Campaigns</h1>
        <ChoiceList
          items={list.map(({ id, campaign: c }) => ({
            id,
            title: c.title,
            note: `${c.nights?.length ?? 0} nights · ${c.scenario.target.name}`,
          }))}
          chosen={chosen?.id}
          choose={(id) => edit((p) => p.set("id", id))}
        />
        {campaigns.data && list.length === 0 && (
          <p className="mb-2 text-muted">
            A campaign is one target over many nights. Begin one from a comparison: its light path, framing and goals
            stay the same until the goals are reached.
          </p>
        )}
        <Begin done={(id) => edit((p) => p.set("id", id))} />
      </div>
      {chosen && (
        <Detail
          key={chosen.id}
          stored={chosen}
          change={(how) => change(chosen.id, how)}
          remove={remove}
          offerUndo={offerUndo}
        />
      )}
    </div>
  );
}
