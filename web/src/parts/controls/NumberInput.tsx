import { useId, useState } from "react";
import { outside, readAmount } from "../amount";

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
export function NumberInput({
  label,
  value,
  unit,
  min = -Infinity,
  max = Infinity,
  autoFocus,
  onDone,
}: NumberInputProps) {
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
