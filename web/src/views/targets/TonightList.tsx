import { useQuery } from "@tanstack/react-query";
import { answerOf, api, type Library, type TargetKind } from "@/api/client";
import { Select } from "@/parts/controls/Select";
import { nightSite, type SiteEntry, tonightDate, useRigAndSite } from "@/parts/evening";
import { percent } from "@/parts/format";
import { QUANTITY_LABELS } from "@/theme/marks";

type Props = { library: Library; kind: string; chosen: string; choose: (name: string) => void };

/** What is worth shooting tonight: the catalogue ranked for a rig, a site and the moon. */
export function TonightList({ library, kind, chosen, choose }: Props) {
  const { sites, site, setSite, rigs, chosen: rig, used, setRig } = useRigAndSite(library);
  const date = tonightDate(site?.site);
  const ranked = useQuery({
    queryKey: ["tonight-list", site?.id, used?.value, kind, date],
    queryFn: () => {
      const s = site as SiteEntry;
      const { scenario, contender } = used as NonNullable<typeof used>;
      return answerOf(
        api.POST("/api/v1/night/tonight", {
          body: {
            scenario: {
              ...scenario,
              sky: {
                ...scenario.sky,
                zenith_v_mag: s.site.zenith_v_mag,
                lamps: s.site.lamps,
                toward_target_v_mag: null,
              },
            },
            contender,
            site: nightSite(s),
            date,
            spec: { kind: (kind || null) as TargetKind | null, at_least_arcmin: null },
          },
        }),
      );
    },
    enabled: site !== undefined && used !== undefined,
    placeholderData: (was) => was,
  });
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
      </div>
      <ol
        className="mt-2 flex max-h-[calc(100dvh-17rem)] flex-col gap-0.5 overflow-y-auto pr-1"
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
                <span className="num shrink-0 text-[0.86rem] text-amber">{percent(w.worth)}</span>
              </span>
              <span className="block truncate text-[0.82rem] text-muted">
                {w.hours.toFixed(1)} h, {w.highest_deg.toFixed(0)}° high, {QUANTITY_LABELS[w.quantity]},{" "}
                {percent(w.of_field)} of the field
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
