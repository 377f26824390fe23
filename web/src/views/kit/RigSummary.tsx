import { useQuery } from "@tanstack/react-query";
import { kitQuery } from "@/api/queries";
import { clock, fixed } from "@/parts/format";

/** What a rig comes to as it is saved: scale and field, price, focus, and the light paths of its filters. */
export function RigSummary({ id }: { id: string }) {
  const kit = useQuery(kitQuery);
  const rig = kit.data?.find((r) => r.id === id);
  if (!rig) return null;
  if (!rig.ready)
    return (
      <ul className="mb-3 text-[0.93rem] text-amber">
        {rig.wrong.map((w) => (
          <li key={w.path}>{w.message}</li>
        ))}
      </ul>
    );
  const { ready } = rig;
  const [wide, high] = ready.field_arcmin as [number, number];
  const { parts, filters, extra, total, unknown } = ready.price;
  const rows: [string, string][] = [
    ["Focal ratio", `f/${ready.focal_ratio.toFixed(1)}`],
    ["Scale", `${ready.scale_arcsec.toFixed(2)}″ a pixel`],
    ["Field", `${(wide / 60).toFixed(1)}° × ${(high / 60).toFixed(1)}°`],
    ["Longest sub", ready.optics.longest_sub_s == null ? "no limit" : clock(ready.optics.longest_sub_s)],
    [
      "Price",
      `${fixed(total, 0)} = ${fixed(parts, 0)} telescope and camera + ${fixed(filters, 0)} filters + ${fixed(extra, 0)} the rest${unknown ? `, ${unknown} without a price` : ""}`,
    ],
  ];
  return (
    <div className="mb-4 rounded-lg bg-well px-3 py-2" data-testid="rig-summary">
      <dl className="flex flex-wrap gap-x-6 gap-y-0.5 text-[0.93rem]">
        {rows.map(([k, v]) => (
          <div key={k} className="flex gap-1.5">
            <dt className="text-muted">{k}</dt>
            <dd className="num">{v}</dd>
          </div>
        ))}
      </dl>
      <p className="mt-1 text-[0.93rem]" data-testid="rig-focus">
        {ready.focus.words}
      </p>
      <p className="mt-1 text-[0.93rem]">
        <span className="text-muted">Its filters make </span>
        {ready.sets.length === 0 ? "no light path yet: fill a slot." : ready.sets.map((s) => s.name).join(" · ")}
      </p>
    </div>
  );
}
