import { Select } from "@/parts/controls/Select";
import { skyOf, useSites } from "@/parts/evening";
import type { SceneProps as Props } from "./SceneCard";

/** A site of the shelf, taken over into the sky as it stands there now. */
export function SitePick({ change, site }: Pick<Props, "change"> & { site: string | null }) {
  const sites = useSites();
  const take = (id: string) =>
    change((s) => {
      const site = sites.find((x) => x.id === id);
      if (!site) return;
      s.sky = skyOf(s.sky, site);
      if (site.site.seeing_fwhm_arcsec != null) s.seeing_fwhm_arcsec = site.site.seeing_fwhm_arcsec;
    });
  return (
    <div className="col-span-2">
      <Select
        label={site ? `From ${site}; take it or another anew` : "Take a site from the shelf"}
        value=""
        placeholder="Brightness, lamps, height, air…"
        options={sites.map((x) => ({ value: x.id, label: x.entry.name, note: x.site.zenith_v_mag.toFixed(2) }))}
        testId="site"
        onChange={take}
      />
    </div>
  );
}
