import { useQuery } from "@tanstack/react-query";
import type { FieldFit, Library, Season, TargetKind } from "@/api/client";
import { campaignsQuery, worthTonightQuery } from "@/api/queries";
import { Select } from "@/parts/controls/Select";
import { nightSite, skyOf, tonightDate, useRigAndSite } from "@/parts/evening";
import { clock, percent } from "@/parts/format";
import { useParamsEdit } from "@/parts/useParams";
import { ANY } from "./Narrowing";

/** How an object's longer axis fills the field's shorter side. */
const FITS: { value: FieldFit; label: string }[] = [
  { value: "small", label: "Small in the field" },
  { value: "one_panel", label: "Fits one panel" },
  { value: "mosaic", label: "Wants a mosaic" },
];
const SEASONS: { value: Season; label: string }[] = [
  { value: "early", label: "Best weeks to come" },
  { value: "best", label: "At its best" },
  { value: "late", label: "Its last weeks" },
];

type Props = { library: Library; kind: string; chosen: string; choose: (name: string) => void };

/** What is worth shooting tonight: the catalogue ranked for a rig, a site and the moon. */
export function TonightList({ library, kind, chosen, choose }: Props) {
  const { sites, site, setSite, rigs, chosen: rig, used, setRig, isExample } = useRigAndSite(library);
  const date = tonightDate(site?.site);
  const [params, edit] = useParamsEdit();
  const isNew = params.get("new") === "1";
  const put = (key: string, value: string) =>
    edit((p) => {
      if (value === ANY) p.delete(key);
      else p.set(key, value);
    });
  const campaigns = useQuery(campaignsQuery);
  const shot = campaigns.data?.map((c) => c.campaign.scenario.target.name) ?? [];
  const ranked = useQuery(
    worthTonightQuery(
      site && used
        ? {
            scenario: { ...used.scenario, sky: skyOf(used.scenario.sky, site) },
            contender: used.contender,
            site: nightSite(site),
            date,
            spec: {
              kind: (kind || null) as TargetKind | null,
              season: (params.get("season") || null) as Season | null,
              at_least_arcmin: null,
              fit: (params.get("fit") || null) as FieldFit | null,
              leave_out: isNew ? shot : [],
            },
          }
        : null,
    ),
  );
  return (
    <>
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Select
          hideLabel
          label="Site"
          value={site?.id ?? ""}
          options={sites.map((s) => ({ value: s.id, label: s.entry.name }))}
          onChange={setSite}
        />
        <Select hideLabel label="Rig" value={rig} options={rigs} onChange={setRig} />
        <Select
          hideLabel
          label="How it fits the field"
          value={params.get("fit") ?? ANY}
          options={[{ value: ANY, label: "Any fit" }, ...FITS]}
          testId="fit"
          onChange={(v) => put("fit", v)}
        />
        <Select
          hideLabel
          label="Season"
          value={params.get("season") ?? ANY}
          options={[{ value: ANY, label: "Any season" }, ...SEASONS]}
          testId="season"
          onChange={(v) => put("season", v)}
        />
      </div>
      {shot.length > 0 && (
        <label className="mt-2 flex min-h-8 items-center gap-2 text-[0.9rem] text-muted">
          <input
            type="checkbox"
            checked={isNew}
            onChange={(e) =>
              edit((p) => {
                if (e.target.checked) p.set("new", "1");
                else p.delete("new");
              })
            }
            className="size-4 accent-(--salt)"
          />
          Leave out what my campaigns shoot
        </label>
      )}
      <p className="mt-1 text-[0.82rem] text-muted">
        {isExample && "Ranked for an example: with a rig of yours in the kit it is ranked for that. "}
        Time to the goal, or what share of it tonight brings.
      </p>
      <ol
        className="mt-2 flex max-h-[calc(100dvh-21rem)] flex-col gap-0.5 overflow-y-auto pr-1"
        aria-label="Worth shooting tonight, best first"
        tabIndex={0}
        data-testid="tonight-list"
      >
        {ranked.data?.map((w) => (
          <li key={w.name}>
            <button
              type="button"
              aria-current={w.name === chosen}
              onClick={() => choose(w.name)}
              title={w.why}
              className={`w-full rounded-lg px-2.5 py-1 text-left ${w.name === chosen ? "bg-raised" : "hover:bg-surface"}`}
            >
              <span className="flex justify-between gap-2">
                <span className="truncate">
                  {w.name} {w.other_name && <span className="text-muted">{w.other_name}</span>}
                </span>
                <span className="num shrink-0 text-[0.86rem] text-amber">
                  {w.share == null
                    ? "brightness unknown"
                    : w.share < 1
                      ? `brings ${percent(w.share)}`
                      : `in ${clock(w.time_to_goal_s)}`}
                </span>
              </span>
              <span className="block truncate text-[0.82rem] text-muted">
                {w.quantity_name} · {w.hours.toFixed(1)} h · {w.highest_deg.toFixed(0)}° high · {percent(w.of_field)} of
                field
              </span>
            </button>
          </li>
        ))}
        {ranked.data?.length === 0 && (
          <li className="p-3 text-muted">
            Nothing of this kind is up in the dark tonight. Galaxies and clusters need a light path with a broad filter,
            or none.
          </li>
        )}
      </ol>
    </>
  );
}
