import { useQuery } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useEffect } from "react";
import { kitQuery, scenariosQuery, tonightQuery } from "@/api/queries";
import { ComparisonCard } from "@/parts/ComparisonCard";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { tonightDate, useSites } from "@/parts/evening";
import { NewComparison } from "@/parts/NewComparison";
import { useStatusLine } from "@/parts/statusLine";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { ChoiceCard } from "./ChoiceCard";
import { FirstRun } from "./FirstRun";
import { RunningCampaigns } from "./RunningCampaigns";
import { WorthBeginning } from "./WorthBeginning";

/** Comparisons that are shown here; all stand in their own list. */
const SHOWN = 6;

/** The first screen: what to do tonight with one's own kit from one's own site, and why. */
export function TonightPage() {
  useTitle("Tonight");
  const [params, edit] = useParamsEdit();
  const setStatusLine = useStatusLine();
  const offerUndo = useOfferUndo();
  const sites = useSites().filter((s) => s.mine);
  const kit = useQuery(kitQuery);
  const rows = useQuery(scenariosQuery);
  const [siteId, rigId] = [params.get("site"), params.get("rig")];
  const site = sites.find((s) => s.id === siteId) ?? sites[0];
  const date = params.get("date") ?? tonightDate(site?.site);
  const tonight = useQuery(tonightQuery({ date, ...(siteId && { site: siteId }), ...(rigId && { rig: rigId }) }));
  const put = (key: string, value: string) => edit((p) => p.set(key, value));
  useEffect(() => {
    setStatusLine(
      "Heights, moon and twilight for the whole night; sky and brightnesses as your kit and the catalogue have them.",
    );
    return () => setStatusLine(null);
  }, [setStatusLine]);
  const a = tonight.data;
  if (tonight.error) return <p className="p-6 whitespace-pre-line text-danger">{tonight.error.message}</p>;
  if (!a) return <p className="p-6 text-muted">Loading…</p>;
  return (
    <div className="mx-auto max-w-6xl px-6 py-4">
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <h1 className="grow text-2xl">Tonight</h1>
        {sites.length > 0 && (
          <div className="w-44">
            <Select
              hideLabel
              label="From which site"
              value={site?.id ?? ""}
              options={sites.map((s) => ({ value: s.id, label: s.entry.name }))}
              onChange={(v) => put("site", v)}
            />
          </div>
        )}
        {kit.data && kit.data.length > 0 && (
          <div className="w-52">
            <Select
              hideLabel
              label="With which rig"
              value={rigId ?? a.rig?.id ?? ""}
              options={kit.data.map((r) => ({ value: r.id, label: r.name }))}
              onChange={(v) => put("rig", v)}
            />
          </div>
        )}
        <input
          type="date"
          aria-label="Evening"
          value={date}
          onChange={(e) => e.target.value && put("date", e.target.value)}
          className="num h-8 rounded-md border border-edge bg-well px-2"
        />
      </div>
      {(!a.site || !a.rig || rows.data?.length === 0) && (
        <FirstRun site={a.site != null} rig={a.rig != null} withChoice={a.site != null && a.rig != null} />
      )}
      {a.site && a.rig && <ChoiceCard answer={a} />}
      {a.site && (
        <div className="mt-3 grid grid-cols-2 gap-3 max-lg:grid-cols-1">
          <RunningCampaigns answer={a} />
          <WorthBeginning answer={a} />
        </div>
      )}
      <section aria-label="Comparisons" className="mt-5">
        <div className="mb-2 flex items-center gap-3">
          <h2 className="grow text-[1.15rem]">Comparisons</h2>
          <NewComparison>
            <Button>
              <Plus size={15} aria-hidden /> New
            </Button>
          </NewComparison>
        </div>
        {rows.data?.length === 0 && <p className="text-muted">None yet: pick a target above, or begin a new one.</p>}
        <ul className="grid grid-cols-2 gap-2 max-lg:grid-cols-1">
          {rows.data?.slice(0, SHOWN).map((row) => (
            <ComparisonCard key={row.id} row={row} offerUndo={offerUndo} />
          ))}
        </ul>
      </section>
    </div>
  );
}
