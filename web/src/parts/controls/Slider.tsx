import { Slider as RSlider } from "radix-ui";
import { type ReactNode, useId, useState } from "react";
import { NumberInput } from "./NumberInput";

type SliderProps = {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  show: string;
  /** The unit of the value, for what is typed: "s", "h", "°". */
  unit?: string;
  hint?: ReactNode;
  /** Maps the value to the track; for lengths that span decades. */
  log?: boolean;
  /** What was dragged may be rounded; what was typed stays as it was typed. */
  onChange: (value: number, typed: boolean) => void;
  onCommit?: () => void;
  testId?: string;
  track?: string;
};

/** A slider with its name, its value and, under it, what the value means. The value is a button: click it to type one. */
export function Slider({
  label,
  value,
  min,
  max,
  step,
  show,
  unit,
  hint,
  log,
  onChange,
  onCommit,
  testId,
  track,
}: SliderProps) {
  const [typing, setTyping] = useState(false);
  const id = useId();
  const to = (v: number) => (log ? Math.log(v) : v);
  const from = (v: number) => (log ? Number(Math.exp(v).toPrecision(3)) : Number(v.toFixed(6)));
  return (
    <div className="min-w-0">
      <div className="flex items-baseline justify-between gap-2">
        <span id={id} className="truncate text-[0.9rem] text-muted">
          {label}
        </span>
        {typing ? (
          <NumberInput
            label={`${label}, exact`}
            value={value}
            unit={unit}
            min={min}
            max={max}
            autoFocus
            onDone={(v) => {
              setTyping(false);
              if (v !== null) {
                onChange(v, true);
                onCommit?.();
              }
            }}
          />
        ) : (
          <button
            type="button"
            className="num min-h-[24px] rounded px-1 text-[0.95rem] whitespace-nowrap hover:bg-raised"
            aria-label={`${label}: ${show}. Type an exact value`}
            onClick={() => setTyping(true)}
            data-testid={testId && `${testId}-value`}
          >
            {show}
          </button>
        )}
      </div>
      <RSlider.Root
        className="relative flex h-[24px] w-full touch-none items-center select-none"
        min={to(min)}
        max={to(max)}
        step={log ? (to(max) - to(min)) / 200 : step}
        value={[Math.min(to(max), Math.max(to(min), to(value)))]}
        onValueChange={([v]) => v !== undefined && onChange(from(v), false)}
        onValueCommit={() => onCommit?.()}
        data-testid={testId}
      >
        <RSlider.Track
          className="relative h-1.5 w-full grow rounded-full"
          style={{ background: track ?? "var(--edge)" }}
        >
          {!track && <RSlider.Range className="absolute h-full rounded-full bg-salt-deep" />}
        </RSlider.Track>
        <RSlider.Thumb
          aria-labelledby={id}
          aria-valuetext={show}
          className="block size-4 rounded-full border-2 border-ground bg-salt shadow-[0_0_10px_2px_color-mix(in_srgb,var(--salt)_40%,transparent)] transition-transform hover:scale-110"
        />
      </RSlider.Root>
      {hint !== undefined && <div className="-mt-1 truncate text-[0.82rem] text-muted">{hint}</div>}
    </div>
  );
}
