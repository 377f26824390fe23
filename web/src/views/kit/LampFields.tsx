import { NumberField } from "@/parts/controls/NumberField";
import { LAMPS } from "@/theme/marks";

/** The lamps of a site, as fractions of the light that they give. */
export function LampFields({
  lamps,
  onChange,
  error,
}: {
  lamps: Record<string, number>;
  onChange: (l: Record<string, number>) => void;
  error?: string;
}) {
  const sum = LAMPS.reduce((s, [k]) => s + (lamps[k] ?? 0), 0);
  return (
    <div className="mt-4">
      <h3 className="font-medium">Lamps, as fractions of their light</h3>
      <div className="mt-1 grid grid-cols-3 gap-3 max-md:grid-cols-2">
        {LAMPS.map(([k, label]) => (
          <NumberField
            key={k}
            label={label}
            unit="0–1"
            value={lamps[k] ?? 0}
            min={0}
            max={1}
            onChange={(v) =>
              onChange(Object.fromEntries(Object.entries({ ...lamps, [k]: v }).filter(([, x]) => x > 0)))
            }
          />
        ))}
      </div>
      {(error || Math.abs(sum - 1) > 1e-3) && (
        <p className="mt-1 text-danger">{error ?? `The fractions sum to ${sum.toFixed(2)}; they must sum to 1.`}</p>
      )}
    </div>
  );
}
