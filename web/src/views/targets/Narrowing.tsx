import { useQuery } from "@tanstack/react-query";
import { constellationsQuery } from "@/api/queries";
import { Select } from "@/parts/controls/Select";

/** What stands for no choice. */
export const ANY = "any";
const SIZES = [
  { value: ANY, label: "Any size" },
  { value: "1-5", label: "1′ to 5′" },
  { value: "5-20", label: "5′ to 20′" },
  { value: "20-60", label: "20′ to 1°" },
  { value: "60-", label: "Over 1°" },
];

type Props = {
  kind: string;
  constellation: string;
  size: string;
  kinds: readonly (readonly [string, string])[];
  set: (key: string, value: string) => void;
};

/** Narrows the search by kind, constellation and size. */
export function Narrowing({ kind, constellation, size, kinds, set }: Props) {
  const constellations = useQuery(constellationsQuery);
  return (
    <div className="mt-2 grid grid-cols-2 gap-2">
      <div className="col-span-2">
        <Select
          hideLabel
          label="Kind"
          value={kind || ANY}
          options={[{ value: ANY, label: "Any kind" }, ...kinds.map(([value, label]) => ({ value, label }))]}
          onChange={(v) => set("kind", v)}
          testId="kind-filter"
        />
      </div>
      <Select
        hideLabel
        label="Constellation"
        value={constellation || ANY}
        options={[
          { value: ANY, label: "All the sky" },
          ...(constellations.data ?? []).map((c) => ({ value: c, label: c })),
        ]}
        onChange={(v) => set("in", v)}
      />
      <Select hideLabel label="Size" value={size || ANY} options={SIZES} onChange={(v) => set("size", v)} />
    </div>
  );
}
