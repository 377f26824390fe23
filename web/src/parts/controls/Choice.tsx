import { RadioGroup } from "radix-ui";
import type { ReactNode } from "react";

type Props<T extends string> = {
  label: string;
  options: readonly { value: T; label: ReactNode; name?: string }[];
  value: T;
  onChange: (value: T) => void;
  className?: string;
  item?: string;
  testId?: string;
};

/** One of a few, side by side; the arrow keys go from one to the next. */
export function Choice<T extends string>({ label, options, value, onChange, className, item, testId }: Props<T>) {
  return (
    <RadioGroup.Root
      aria-label={label}
      value={value}
      onValueChange={(v) => onChange(v as T)}
      data-testid={testId}
      className={className ?? "flex flex-wrap rounded-2xl bg-surface p-0.5"}
    >
      {options.map((o) => (
        <RadioGroup.Item
          key={o.value}
          value={o.value}
          aria-label={o.name}
          title={o.name}
          className={
            item ??
            "flex min-h-[24px] items-center gap-1.5 rounded-full px-3 py-0.5 text-[0.9rem] text-muted hover:text-ink data-[state=checked]:bg-raised data-[state=checked]:text-ink data-[state=checked]:ring-1 data-[state=checked]:ring-edge-strong"
          }
        >
          {o.label}
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}
