import { Check, ChevronDown } from "lucide-react";
import { Select as RSelect } from "radix-ui";

export type Option = { value: string; label: string; group?: string; note?: string };
type SelectProps = {
  label: string;
  value: string;
  options: readonly Option[];
  onChange: (value: string) => void;
  placeholder?: string;
  hideLabel?: boolean;
  testId?: string;
};

/** One of a list, grouped where the options say so. */
export function Select({ label, value, options, onChange, placeholder, hideLabel, testId }: SelectProps) {
  const groups = [...new Set(options.map((o) => o.group ?? ""))];
  const known = options.some((o) => o.value === value);
  return (
    <div className="min-w-0">
      {!hideLabel && <div className="text-[0.85rem] text-muted">{label}</div>}
      <RSelect.Root value={known ? value : ""} onValueChange={onChange}>
        <RSelect.Trigger
          aria-label={label}
          data-testid={testId}
          className="flex h-8 w-full items-center justify-between gap-2 rounded-md border border-edge bg-well px-2 text-left hover:border-edge-strong"
        >
          <span className="truncate">
            <RSelect.Value placeholder={placeholder ?? "Your own"} />
          </span>
          <ChevronDown size={14} className="shrink-0 text-muted" aria-hidden />
        </RSelect.Trigger>
        <RSelect.Portal>
          <RSelect.Content
            position="popper"
            sideOffset={4}
            collisionPadding={8}
            className="rise z-50 max-h-[min(24rem,var(--radix-select-content-available-height))] min-w-(--radix-select-trigger-width) overflow-hidden rounded-md border border-edge bg-raised shadow-xl shadow-black/40"
          >
            <RSelect.Viewport className="p-1">
              {groups.map((group) => (
                <RSelect.Group key={group}>
                  {group && (
                    <RSelect.Label className="px-2 pt-1.5 pb-0.5 text-[0.82rem] text-muted">{group}</RSelect.Label>
                  )}
                  {options
                    .filter((o) => (o.group ?? "") === group)
                    .map((o) => (
                      <RSelect.Item
                        key={o.value}
                        value={o.value}
                        className="flex items-center gap-2 rounded px-2 py-1 outline-none data-highlighted:bg-edge"
                      >
                        <RSelect.ItemText>{o.label}</RSelect.ItemText>
                        {o.note && <span className="ml-auto pl-4 text-[0.82rem] text-muted">{o.note}</span>}
                        <RSelect.ItemIndicator className={o.note ? "" : "ml-auto"}>
                          <Check size={14} className="text-salt" aria-hidden />
                        </RSelect.ItemIndicator>
                      </RSelect.Item>
                    ))}
                </RSelect.Group>
              ))}
            </RSelect.Viewport>
          </RSelect.Content>
        </RSelect.Portal>
      </RSelect.Root>
    </div>
  );
}
