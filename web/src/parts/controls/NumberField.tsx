import { useEffect, useId, useState } from "react";
import { outside, readAmount } from "../amount";

type FieldProps = {
  label: string;
  /** The name is for screen readers alone: what it is says something beside it. */
  hideLabel?: boolean;
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
  hideLabel,
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
      <label htmlFor={id} className={hideLabel ? "sr-only" : "block text-[0.85rem] text-muted"}>
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
