import { useState } from "react";
import { toast } from "sonner";
import {
  answerOf,
  api,
  type CampaignNight,
  type NightAnswer,
  type StoredCampaign,
  type TargetNight,
} from "@/api/client";
import { useRecordNight } from "@/api/mutations";
import { Button } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import { NightDialog } from "@/views/campaign/NightDialog";
import type { StruckOut } from "./targets";

/** A target's night that goes into a campaign, and through which of its light paths. */
type Part = { into: StoredCampaign; of: TargetNight; path: number };
type Into = { stored: StoredCampaign; path: number };

/** What each campaign gets of a night; a target without a campaign or without a block gives nothing. */
function partsOf(night: NightAnswer, campaigns: readonly (Into | undefined)[]): Part[] {
  const all = [night.first, ...night.others].flatMap((of, i) => {
    const into = campaigns[i];
    return into ? [{ into: into.stored, path: into.path, of }] : [];
  });
  return all.filter(({ of }) => of.plan.blocks.length > 0);
}

const asNight = (date: string, of: TargetNight, planned: boolean, struckOut: readonly StruckOut[]): CampaignNight => ({
  date,
  shots: of.shots,
  blocks: of.plan.blocks.map(({ exposure, from_s, to_s, subs }) => ({
    ...{ exposure, from_s, to_s, subs },
    lost_to_cloud: 0,
    note: "",
  })),
  struck_out: [...struckOut],
  note: "",
  planned,
});

type Props = {
  night: NightAnswer | undefined;
  /** The campaign of each target, in their order, with the light path that is used. */
  campaigns: readonly (Into | undefined)[];
  date: string;
  /** Hours that were struck out. */
  struckOut: readonly StruckOut[];
};

/** A campaign as it stands now. */
const fresh = (id: string) => answerOf(api.GET("/api/v1/campaigns/{id}", { params: { path: { id } } }));

/** Keeps the plan in its campaigns, or records what was really shot, one campaign after the other. */
export function Recording({ night, campaigns, date, struckOut }: Props) {
  const record = useRecordNight();
  const parts = night ? partsOf(night, campaigns) : [];
  const [asking, setAsking] = useState<Part[]>([]);
  const enter = async ({ into, path }: Part, entry: CampaignNight, subs?: number[]) => {
    // Read anew: the part before it may have gone into the same campaign.
    const now = await fresh(into.id);
    await record({ into: now, night: entry, subs, path });
    toast.success(`${entry.date} ${entry.planned ? "planned" : "recorded"} in ${into.campaign.title}`);
  };
  const keepPlan = async () => {
    for (const part of parts) await enter(part, asNight(date, part.of, true, struckOut)).catch((e: Error) => fail(e));
  };
  const [now] = asking;
  if (campaigns.every((c) => c === undefined)) return null;
  return (
    <>
      <Button onClick={() => void keepPlan()} disabled={parts.length === 0}>
        Keep the plan
      </Button>
      <Button look="lit" onClick={() => setAsking(parts)} disabled={parts.length === 0}>
        Record as shot
      </Button>
      {now && (
        <NightDialog
          key={`${now.into.id}${now.path}`}
          title={`What was taken for ${now.into.campaign.title}`}
          night={asNight(date, now.of, false, struckOut)}
          clock={night?.clock}
          exposures={now.into.campaign.scenario.contenders[now.path]?.exposures ?? []}
          save={async (entry, subs) => {
            await enter(now, entry, subs);
            setAsking(asking.slice(1));
          }}
          close={() => setAsking(asking.slice(1))}
        />
      )}
    </>
  );
}
