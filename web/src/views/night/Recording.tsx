import { useState } from "react";
import { toast } from "sonner";
import type { CampaignNight, NightAnswer, StoredCampaign, TargetNight } from "@/api/client";
import { useRecordNight } from "@/api/mutations";
import { Button } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import { NightDialog } from "@/views/campaign/NightDialog";

type Part = { into: StoredCampaign; of: TargetNight };

/** What each campaign gets of a night; a target without a block gives nothing. */
function partsOf(night: NightAnswer, campaign: StoredCampaign, second: StoredCampaign | undefined): Part[] {
  const parts = [{ into: campaign, of: night.first }];
  if (second && night.second) parts.push({ into: second, of: night.second });
  return parts.filter(({ of }) => of.plan.blocks.length > 0);
}

const asNight = (date: string, of: TargetNight, planned: boolean): CampaignNight => ({
  date,
  shots: of.shots,
  note: "",
  planned,
});

type Props = {
  night: NightAnswer | undefined;
  campaign: StoredCampaign;
  second: StoredCampaign | undefined;
  date: string;
};

/** Keeps the plan in its campaigns, or records what was really shot, one campaign after the other. */
export function Recording({ night, campaign, second, date }: Props) {
  const record = useRecordNight();
  const parts = night ? partsOf(night, campaign, second) : [];
  const [asking, setAsking] = useState<Part[]>([]);
  const enter = async (into: StoredCampaign, entry: CampaignNight, subs?: number[]) => {
    await record({ into, night: entry, subs });
    toast.success(`${entry.date} ${entry.planned ? "planned" : "recorded"} in ${into.campaign.title}`);
  };
  const keepPlan = async () => {
    for (const { into, of } of parts) await enter(into, asNight(date, of, true)).catch((e: Error) => fail(e));
  };
  const [now] = asking;
  return (
    <>
      <Button onClick={() => void keepPlan()} disabled={!night?.first.plan.blocks.length}>
        Keep the plan
      </Button>
      <Button look="lit" onClick={() => setAsking(parts)} disabled={!night?.first.plan.blocks.length}>
        Record as shot
      </Button>
      {now && (
        <NightDialog
          key={now.into.id}
          title={`What was taken for ${now.into.campaign.title}`}
          night={asNight(date, now.of, false)}
          exposures={now.into.campaign.scenario.contenders[now.into.campaign.contender]?.exposures ?? []}
          save={async (entry, subs) => {
            await enter(now.into, entry, subs);
            setAsking(asking.slice(1));
          }}
          close={() => setAsking(asking.slice(1))}
        />
      )}
    </>
  );
}
