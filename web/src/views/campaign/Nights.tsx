import { Pencil, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import type { Campaign, CampaignNight, StoredCampaign } from "@/api/client";
import { useRecordNight } from "@/api/mutations";
import { Button, IconButton } from "@/parts/controls/Button";
import { many } from "@/parts/format";
import type { useOfferUndo } from "@/parts/useOfferUndo";
import { contenderMark } from "@/theme/marks";
import { NightDialog } from "./NightDialog";

type Props = {
  stored: StoredCampaign;
  /** The evening that is now. */
  date: string;
  change: (how: (c: Campaign) => Campaign) => Promise<unknown>;
  offerUndo: ReturnType<typeof useOfferUndo>;
};

/** "H-alpha 3 nm: 4 subs lost to cloud, wind" of a block that did not go as planned. */
const blockWords = (b: NonNullable<CampaignNight["blocks"]>[number], filter: string) =>
  `${filter}: ${[b.lost_to_cloud ? `${many(b.lost_to_cloud)} lost to cloud` : "", b.note ?? ""].filter(Boolean).join(", ")}`;

/** The nights of a campaign: planned, shot, or typed in by hand. */
export function Nights({ stored, date, change, offerUndo }: Props) {
  const c = stored.campaign;
  const record = useRecordNight();
  const [editing, setEditing] = useState<CampaignNight | null>(null);
  const rig = c.scenario.contenders[c.contender];
  // Another of the campaign's light paths, where one took the night.
  const pathOf = (n: CampaignNight) => n.shots.find((s) => s.path != null)?.path;
  const rigOf = (n: CampaignNight) => c.scenario.contenders[pathOf(n) ?? c.contender];
  const filterOf = (n: CampaignNight, x: number) => rigOf(n)?.exposures[x]?.filter?.name ?? "no filter";
  const takeOut = (night: CampaignNight) => {
    const key = JSON.stringify(night);
    const others = (now: Campaign) => (now.nights ?? []).filter((n) => JSON.stringify(n) !== key);
    // Changes are made one after the other, so that the way back may be taken before this one is done.
    void change((now) => ({ ...now, nights: others(now) }));
    offerUndo(`${night.date} taken out of ${c.title}`, () =>
      change((now) => ({ ...now, nights: [...others(now), night].sort((a, b) => a.date.localeCompare(b.date)) })),
    );
  };
  return (
    <section aria-label="Nights" className="rounded-xl bg-surface px-4 py-3">
      <div className="flex items-center">
        <h2 className="mb-1 grow text-[1.02rem] font-medium">Nights</h2>
        <Button
          look="quiet"
          onClick={() => setEditing({ date, shots: [], note: "", planned: false })}
          data-testid="add-night"
        >
          <Plus size={14} aria-hidden /> A night by hand
        </Button>
      </div>
      {editing && rig && (
        <NightDialog
          title={`What was taken for ${c.title}`}
          night={editing}
          exposures={rigOf(editing)?.exposures ?? rig.exposures}
          close={() => setEditing(null)}
          save={async (night, subs) => {
            await record({ into: stored, night, subs, path: pathOf(editing) ?? undefined, insteadOf: editing });
            setEditing(null);
          }}
        />
      )}
      <table className="w-full text-[0.93rem]" data-testid="nights">
        <tbody>
          {(c.nights ?? []).map((n, i) => (
            <tr key={`${n.date}${i}`} className="border-t border-edge/60 first:border-t-0">
              <td className="num py-0.5 align-top whitespace-nowrap">{n.date}</td>
              <td className="px-3">
                {n.planned && <b className="font-medium text-amber">planned </b>}
                {pathOf(n) != null && <span className="text-muted">{contenderMark(pathOf(n) ?? 0).letter} </span>}
                {n.shots.map((x) => `${filterOf(n, x.exposure)}: ${many(x.subs)}`).join(", ")}
                {n.note && <span className="block text-muted">{n.note}</span>}
                {(n.blocks ?? []).some((b) => (b.lost_to_cloud ?? 0) > 0 || b.note) && (
                  <span className="block text-muted">
                    {(n.blocks ?? [])
                      .filter((b) => (b.lost_to_cloud ?? 0) > 0 || b.note)
                      .map((b) => blockWords(b, filterOf(n, b.exposure)))
                      .join("; ")}
                  </span>
                )}
              </td>
              <td className="text-right whitespace-nowrap">
                {n.planned && (
                  <Button look="quiet" onClick={() => setEditing(n)}>
                    Shot
                  </Button>
                )}
                <IconButton label={`Edit ${n.date}`} onClick={() => setEditing(n)}>
                  <Pencil size={14} aria-hidden />
                </IconButton>
                <IconButton label={`Take out ${n.date}`} onClick={() => takeOut(n)}>
                  <Trash2 size={14} aria-hidden />
                </IconButton>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {(c.nights ?? []).length === 0 && (
        <p className="text-muted">None yet. Plan tonight, and record what was shot from the night's page.</p>
      )}
    </section>
  );
}
