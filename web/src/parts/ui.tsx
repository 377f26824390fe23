/** Small controls in one look: buttons, chips, labelled sliders, number fields, choices. */

import { Check, ChevronDown } from "lucide-react";
import { Select as RSelect, Slider as RSlider, Tooltip as RTooltip } from "radix-ui";
import { type ComponentProps, type ReactNode, useEffect, useId, useState } from "react";
import { outside, readAmount } from "./amount";

type ButtonProps = ComponentProps<"button"> & { look?: "plain" | "lit" | "quiet" | "danger" };

export function Button({ look = "plain", className = "", ...rest }: ButtonProps) {
  const looks = {
    plain: "bg-raised text-ink hover:bg-edge border border-edge",
    lit: "bg-salt text-on-salt font-semibold hover:brightness-110 border border-transparent",
    quiet: "text-muted hover:text-ink hover:bg-raised border border-transparent",
    danger: "text-danger hover:bg-raised border border-transparent",
  };
  return (
    <button
      type="button"
      className={`inline-flex h-8 items-center gap-1.5 rounded-md ${className.includes("px-") ? "" : "px-2.5"} text-[0.93rem] whitespace-nowrap transition-colors disabled:opacity-45 ${looks[look]} ${className}`}
      {...rest}
    />
  );
}

export function IconButton({
  label,
  children,
  className = "",
  ...rest
}: Omit<ButtonProps, "aria-label"> & { label: string }) {
  return (
    <Tip text={label}>
      <Button look="quiet" aria-label={label} className={`w-8 justify-center px-0 ${className}`} {...rest}>
        {children}
      </Button>
    </Tip>
  );
}

export function Tip({ text, children }: { text: ReactNode; children: ReactNode }) {
  return (
    <RTooltip.Root>
      <RTooltip.Trigger asChild>{children}</RTooltip.Trigger>
      <RTooltip.Portal>
        <RTooltip.Content
          sideOffset={6}
          collisionPadding={8}
          className="rise z-50 max-w-80 rounded-md border border-edge bg-raised px-2.5 py-1.5 text-[0.9rem] text-ink shadow-xl shadow-black/40"
        >
          {text}
        </RTooltip.Content>
      </RTooltip.Portal>
    </RTooltip.Root>
  );
}

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
  onChange: (value: number) => void;
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
                onChange(v);
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
        onValueChange={([v]) => v !== undefined && onChange(from(v))}
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

type NumberInputProps = {
  label: string;
  value: number;
  unit?: string;
  min?: number;
  max?: number;
  autoFocus?: boolean;
  onDone: (value: number | null) => void;
};

/** An exact number in place of a slider's. What is refused says why and stays; Escape leaves it as it was. */
function NumberInput({ label, value, unit, min = -Infinity, max = Infinity, autoFocus, onDone }: NumberInputProps) {
  const id = useId();
  const shown = Number(value.toPrecision(6));
  const [text, setText] = useState(TIMES.has(unit ?? "") ? `${shown} ${unit}` : String(shown));
  const read = readAmount(text, unit);
  const wrong = read.why ?? outside(read.value, min, max, unit);
  const finish = () => wrong === undefined && onDone(read.value ?? null);
  return (
    <span className="relative">
      <input
        aria-label={label}
        aria-invalid={wrong !== undefined}
        aria-describedby={wrong ? id : undefined}
        autoFocus={autoFocus}
        onFocus={(e) => e.currentTarget.select()}
        className={`num w-28 rounded border bg-well px-1 text-right text-[0.95rem] ${wrong ? "border-danger" : "border-edge-strong"}`}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={finish}
        onKeyDown={(e) => {
          if (e.key === "Enter") finish();
          if (e.key === "Escape") {
            e.stopPropagation();
            onDone(null);
          }
        }}
      />
      {wrong && (
        <span
          id={id}
          role="alert"
          className="absolute top-full right-0 z-20 w-56 rounded-md border border-danger/60 bg-raised px-2 py-1 text-[0.85rem] whitespace-normal"
        >
          {wrong}
        </span>
      )}
    </span>
  );
}

const TIMES = new Set(["s", "min", "h"]);

type FieldProps = {
  label: string;
  /** Null for a number that is still to be typed: the field is empty. */
  value: number | null;
  unit?: string;
  error?: string;
  min?: number;
  max?: number;
  onChange: (value: number) => void;
  testId?: string;
};

/** A number with its unit. What is typed stays, right or wrong; only right numbers are passed on. */
export function NumberField({
  label,
  value,
  unit,
  error,
  min = -Infinity,
  max = Infinity,
  onChange,
  testId,
}: FieldProps) {
  const id = useId();
  const [text, setText] = useState(() => (value === null ? "" : String(Number(value.toPrecision(10)))));
  useEffect(() => {
    setText((now) => {
      if (value === null) return now;
      const typed = readAmount(now, unit).value;
      // What reads as the same number stays as it was typed.
      return typed !== undefined && Math.abs(typed - value) <= 1e-9 * Math.abs(value)
        ? now
        : String(Number(value.toPrecision(10)));
    });
  }, [value, unit]);
  // A field that nothing was typed into yet is not wrong.
  const empty = value === null && text.trim() === "";
  const read = readAmount(text, unit);
  const wrong = empty ? error : (read.why ?? outside(read.value, min, max, unit) ?? error);
  return (
    <div>
      <label htmlFor={id} className="block text-[0.85rem] text-muted">
        {label}
      </label>
      <div
        className={`flex h-8 items-center rounded-md border bg-well px-2 ${wrong ? "border-danger" : "border-edge"} focus-within:border-edge-strong`}
      >
        <input
          id={id}
          className="num w-full min-w-0 bg-transparent text-right outline-none"
          value={text}
          aria-invalid={wrong !== undefined}
          aria-describedby={wrong ? `${id}-wrong` : undefined}
          data-testid={testId}
          onChange={(e) => {
            setText(e.target.value);
            const { value: next } = readAmount(e.target.value, unit);
            if (next !== undefined && outside(next, min, max) === undefined) onChange(next);
          }}
        />
        {unit && <span className="ml-1.5 text-[0.85rem] whitespace-nowrap text-muted">{unit}</span>}
      </div>
      {wrong && (
        <div id={`${id}-wrong`} className="mt-0.5 text-[0.82rem] text-danger">
          {wrong}
        </div>
      )}
    </div>
  );
}

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
