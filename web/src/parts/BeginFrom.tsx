import { useQuery } from "@tanstack/react-query";
import { scenariosQuery } from "@/api/queries";
import { Select } from "./controls/Select";
import { useSites } from "./evening";

type Props = { label: string; value: string; onChange: (value: string) => void; testId?: string };

/** Which comparison something begins from. */
export function ComparisonSelect({ label, value, onChange, testId }: Props) {
  const scenarios = useQuery(scenariosQuery);
  return (
    <Select
      label={label}
      value={value}
      placeholder="a comparison…"
      options={(scenarios.data ?? []).map((s) => ({ value: s.id, label: s.title }))}
      onChange={onChange}
      testId={testId}
    />
  );
}

/** From which site; the first where none is chosen. */
export function SiteSelect({ label, value, onChange, testId }: Props) {
  const sites = useSites();
  return (
    <Select
      label={label}
      value={value || (sites[0]?.id ?? "")}
      options={sites.map((x) => ({ value: x.id, label: x.entry.name }))}
      onChange={onChange}
      testId={testId}
    />
  );
}
