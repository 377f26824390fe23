import { useQuery } from "@tanstack/react-query";
import type { CatalogueObject } from "@/api/client";
import { useKeepFrame } from "@/api/mutations";
import { campaignsQuery, coordinatesQuery, scenariosQuery } from "@/api/queries";
import { Select } from "@/parts/controls/Select";
import { fail } from "@/parts/fail";
import { PasteCoordinates } from "@/parts/PasteCoordinates";
import { useOfferUndo } from "@/parts/useOfferUndo";
import type { FramingState } from "./useFraming";

/** Where the frame stands, said both ways, and with what it is kept: comparisons and campaigns. */
export function KeepFraming({ framing, object }: { framing: FramingState; object: CatalogueObject }) {
  const [scenarios, campaigns] = [useQuery(scenariosQuery), useQuery(campaignsQuery)];
  const keep = useKeepFrame();
  const offerUndo = useOfferUndo();
  const plan = framing.fields[0]?.plan;
  const said = useQuery({
    ...coordinatesQuery(plan?.at.ra_deg ?? 0, plan?.at.dec_deg ?? 0),
    enabled: plan !== undefined,
  });
  if (!plan) return null;
  const options = [
    ...(campaigns.data ?? []).map((c) => ({
      value: `campaign ${c.id}`,
      label: c.campaign.title,
      group: "Campaigns",
      own: c.campaign.scenario.target.name === object.name,
    })),
    ...(scenarios.data ?? []).map((s) => ({
      value: `scenario ${s.id}`,
      label: s.title,
      group: "Comparisons",
      own: s.title.includes(object.name),
    })),
  ].sort((a, b) => a.group.localeCompare(b.group) || Number(b.own) - Number(a.own));
  const choose = async (value: string) => {
    const [kind, id] = value.split(" ") as ["scenario" | "campaign", string];
    const title = options.find((o) => o.value === value)?.label ?? "it";
    try {
      const before = await keep({ kind, id, frame: plan });
      offerUndo(`Kept with ${title}`, () => keep({ kind, id, ...before }));
    } catch (e) {
      fail(e);
    }
  };
  const degrees = `${plan.at.ra_deg.toFixed(5)} ${plan.at.dec_deg.toFixed(5)}`;
  return (
    <div className="mt-3 border-t border-edge pt-2 text-[0.9rem]" data-testid="framing">
      <p className="text-muted">
        Middle <span className="num text-ink">{said.data ? `${said.data.ra} ${said.data.dec}` : "…"}</span>{" "}
        <span className="num">({degrees})</span>, turned{" "}
        <span className="num text-ink">{Math.round((plan.at.position_angle_deg ?? 0) * 10) / 10}°</span>
      </p>
      <div className="mt-1.5">
        <Select
          label="Keep this framing with"
          value=""
          placeholder="a comparison or a campaign…"
          options={options}
          testId="keep-framing"
          onChange={(v) => void choose(v)}
        />
      </div>
      <PasteCoordinates
        label="Look at other coordinates, in any usual form, or a frame's header"
        take={framing.lookAt}
        testId="look-at"
      />
    </div>
  );
}
