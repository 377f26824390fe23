import { useEffect, useState } from "react";

type Props = { value: readonly number[]; onChange: (gaps: number[]) => void; error: string | undefined };

/** Distances in mm as they are typed: "2.5 8". Null where something in it is no distance that is accepted. */
export function readGaps(text: string): number[] | null {
  const parts = text.split(/[\s;]+/).filter(Boolean);
  const gaps = parts.map((p) => Number(p.replace(",", ".").replace(/mm$/, "")));
  return gaps.length <= 6 && gaps.every((g) => g >= 0.1 && g <= 50) ? gaps : null;
}

const text = (gaps: readonly number[]) => gaps.join(" ");

/** The distances that make halos. What is no list of distances stays as it is typed and changes nothing. */
export function GapsField({ value, onChange, error }: Props) {
  const [typed, setTyped] = useState(text(value));
  useEffect(() => {
    setTyped((now) => {
      const read = readGaps(now);
      return read === null || text(read) === text(value) ? now : text(value);
    });
  }, [value]);
  const wrong = readGaps(typed) === null ? "Up to six distances of 0.1 to 50 mm, as in 2.5 8" : error;
  return (
    <label className="block text-[0.85rem] text-muted">
      Halo gaps, mm
      <input
        value={typed}
        placeholder="2.5 8"
        aria-invalid={wrong !== undefined}
        onChange={(e) => {
          setTyped(e.target.value);
          const gaps = readGaps(e.target.value);
          if (gaps) onChange(gaps);
        }}
        className={`num block h-8 w-full rounded-md border bg-well px-2 text-ink placeholder:text-muted ${wrong ? "border-danger" : "border-edge"}`}
        data-testid="ghost-gaps"
      />
      <span className="block text-[0.8rem]">
        {wrong ? <span className="text-danger">{wrong}</span> : "Filter to sensor, window to sensor: a halo each."}
      </span>
    </label>
  );
}
