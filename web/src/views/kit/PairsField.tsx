import { useEffect, useState } from "react";
import { type ByAzimuth, pairsText, readPairs } from "./horizon";

type Props = {
  label: string;
  value: ByAzimuth;
  placeholder: string;
  /** What the server says of it. */
  error?: string;
  testId: string;
  onChange: (next: ByAzimuth) => void;
};

/** A table by azimuth, typed as pairs. What is not yet a table stays as it is typed and changes nothing. */
export function PairsField({ label, value, placeholder, error, testId, onChange }: Props) {
  const [text, setText] = useState(pairsText(value));
  // What was dragged, undone or discarded shows in the text; what is being typed stays as it is typed.
  useEffect(() => {
    setText((now) => {
      const read = readPairs(now);
      return read === null || pairsText(read) === pairsText(value) ? now : pairsText(value);
    });
  }, [value]);
  const bad = readPairs(text) === null || error !== undefined;
  return (
    <label className="block text-[0.85rem] text-muted">
      {label}
      <input
        value={text}
        aria-invalid={bad}
        onChange={(e) => {
          setText(e.target.value);
          const next = readPairs(e.target.value);
          if (next) onChange(next);
        }}
        placeholder={placeholder}
        className={`num block h-8 w-full rounded-md border bg-well px-2 text-ink placeholder:text-muted ${bad ? "border-danger" : "border-edge"}`}
        data-testid={testId}
      />
      {bad && (
        <span className="text-danger">{error ?? `Give pairs such as "${placeholder}", azimuths ascending.`}</span>
      )}
    </label>
  );
}
