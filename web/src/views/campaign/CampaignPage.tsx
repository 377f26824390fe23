import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { toast } from "sonner";
import { answerOf, api, type Campaign, type StoredCampaign } from "@/api/client";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { Begin } from "./Begin";
import { Detail } from "./Detail";

/** Campaigns: goals that fill, nights that were shot, and when it will be finished. */
export function CampaignPage() {
  const [params, edit] = useParamsEdit();
  const client = useQueryClient();
  const campaigns = useQuery({ queryKey: ["campaigns"], queryFn: () => answerOf(api.GET("/api/v1/campaigns")) });
  const list = campaigns.data ?? [];
  const chosen = list.find((c) => c.id === params.get("id")) ?? list[0];
  useTitle(chosen?.campaign.title ?? "Campaigns");
  // The list first; where each campaign stands may follow when it is known.
  const refresh = () => {
    void client.invalidateQueries({ queryKey: ["campaign-state"] });
    return client.invalidateQueries({ queryKey: ["campaigns"] });
  };
  const offerUndo = useOfferUndo();
  // One save after another, each made from what the one before it left: quick typing loses nothing.
  const saving = useRef(Promise.resolve());
  const change = (id: string, how: (c: Campaign) => Campaign) => {
    saving.current = saving.current.then(async () => {
      const now = client.getQueryData<StoredCampaign[]>(["campaigns"])?.find((c) => c.id === id);
      if (!now) return;
      try {
        const stored = await answerOf(
          api.PUT("/api/v1/campaigns/{id}", {
            params: { path: { id }, header: { "If-Match": `"${now.revision}"` } },
            body: how(now.campaign),
          }),
        );
        client.setQueryData<StoredCampaign[]>(["campaigns"], (was) => was?.map((c) => (c.id === id ? stored : c)));
      } catch (e) {
        toast.error((e as Error).message, { duration: 10_000 });
        await refresh();
      }
    });
    return saving.current;
  };
  const remove = async (c: StoredCampaign) => {
    try {
      await answerOf(api.DELETE("/api/v1/campaigns/{id}", { params: { path: { id: c.id } } }));
      offerUndo(`${c.campaign.title} deleted`, () =>
        answerOf(api.POST("/api/v1/campaigns/{id}/restore", { params: { path: { id: c.id } } })).then(refresh),
      );
      await refresh();
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
    }
  };
  return (
    <div className="grid grid-cols-[16rem_minmax(0,1fr)] gap-4 px-5 py-3 max-lg:grid-cols-[minmax(0,1fr)]">
      <div>
        <h1 className="mb-2 text-[1.3rem]">Campaigns</h1>
        <ul className="flex flex-col gap-0.5">
          {list.map((c) => (
            <li key={c.id}>
              <button
                type="button"
                aria-current={c.id === chosen?.id}
                onClick={() => edit((p) => p.set("id", c.id))}
                className={`w-full truncate rounded-lg px-2.5 py-1 text-left ${c.id === chosen?.id ? "bg-raised" : "hover:bg-surface"}`}
              >
                {c.campaign.title}
                <span className="block text-[0.82rem] text-muted">
                  {c.campaign.nights?.length ?? 0} nights · {c.campaign.scenario.target.name}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {campaigns.data && list.length === 0 && (
          <p className="mb-2 text-muted">
            A campaign is one target over many nights. Begin one from a comparison: its light path, framing and goals
            stay the same until the goals are reached.
          </p>
        )}
        <Begin
          done={async (id) => {
            edit((p) => p.set("id", id));
            await refresh();
          }}
        />
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
