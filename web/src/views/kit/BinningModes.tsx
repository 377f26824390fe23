import { Plus, Trash2 } from "lucide-react";
import { Button, IconButton } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";

export type Mode = { factor: number; read_noise_ratio: number; full_well_ratio: number };
type Props = { modes: readonly Mode[]; edit: (modes: Mode[]) => void; wrong: (path: string) => string | undefined };

const FACTORS = [2, 3, 4];

/** How the camera puts pixels together by itself; any other factor is put together after reading. */
export function BinningModes({ modes, edit, wrong }: Props) {
  const put = (i: number, change: Partial<Mode>) => edit(modes.map((m, k) => (k === i ? { ...m, ...change } : m)));
  const free = FACTORS.find((f) => modes.every((m) => m.factor !== f));
  return (
    <section aria-label="Binning modes" className="mt-4">
      <h3 className="font-medium">Binning in the camera</h3>
      <p className="text-[0.85rem] text-muted">
        One binned pixel against a single one. Put together after reading, the noise grows by the factor and the full
        well by its square; in the sensor the noise can stay as it is. A data sheet or a dark frame in each mode says.
      </p>
      {modes.map((m, i) => (
        <div
          key={m.factor}
          className="mt-1.5 grid grid-cols-[8rem_minmax(0,1fr)_minmax(0,1fr)_2rem] items-end gap-3 max-md:grid-cols-2"
        >
          <Select
            label="Pixels"
            value={String(m.factor)}
            options={FACTORS.filter((f) => f === m.factor || modes.every((o) => o.factor !== f)).map((f) => ({
              value: String(f),
              label: `${f} × ${f}`,
            }))}
            onChange={(v) => put(i, { factor: Number(v) })}
          />
          <NumberField
            label="Read noise"
            unit="×"
            value={m.read_noise_ratio}
            min={0.5}
            max={4}
            error={wrong(`sensor.binning[${i}].read_noise_ratio`)}
            onChange={(v) => put(i, { read_noise_ratio: v })}
          />
          <NumberField
            label="Full well"
            unit="×"
            value={m.full_well_ratio}
            min={0.5}
            max={16}
            error={wrong(`sensor.binning[${i}].full_well_ratio`)}
            onChange={(v) => put(i, { full_well_ratio: v })}
          />
          <IconButton
            label={`Take ${m.factor} × ${m.factor} away`}
            onClick={() => edit(modes.filter((_, k) => k !== i))}
          >
            <Trash2 size={15} aria-hidden />
          </IconButton>
        </div>
      ))}
      {free && (
        <Button
          look="quiet"
          className="mt-1.5"
          onClick={() => edit([...modes, { factor: free, read_noise_ratio: free, full_well_ratio: free * free }])}
        >
          <Plus size={14} aria-hidden /> {`${free} × ${free}`}
        </Button>
      )}
    </section>
  );
}
