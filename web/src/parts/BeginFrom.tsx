import { useQuery } from "@tanstack/react-query";
import { type Control, Controller, type FieldValues, type Path } from "react-hook-form";
import { scenariosQuery } from "@/api/queries";
import { Select } from "./controls/Select";
import { useSites } from "./evening";

type Props<T extends FieldValues> = { control: Control<T>; name: Path<T>; label: string; testId?: string };

/** Which comparison something begins from; `after` what is done when another is chosen. */
export function ComparisonField<T extends FieldValues>({
  control,
  name,
  after,
  ...props
}: Props<T> & { after: () => void }) {
  const scenarios = useQuery(scenariosQuery);
  return (
    <Controller
      name={name}
      control={control}
      render={({ field }) => (
        <Select
          {...props}
          value={field.value}
          placeholder="a comparison…"
          options={(scenarios.data ?? []).map((s) => ({ value: s.id, label: s.title }))}
          onChange={(v) => {
            field.onChange(v);
            after();
          }}
        />
      )}
    />
  );
}

/** From which site; the first where none is chosen. */
export function SiteField<T extends FieldValues>({ control, name, ...props }: Props<T>) {
  const sites = useSites();
  return (
    <Controller
      name={name}
      control={control}
      render={({ field }) => (
        <Select
          {...props}
          value={field.value || (sites[0]?.id ?? "")}
          options={sites.map((x) => ({ value: x.id, label: x.entry.name }))}
          onChange={field.onChange}
        />
      )}
    />
  );
}
