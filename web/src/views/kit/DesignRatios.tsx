import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";

type Props = {
  value: readonly number[] | null | undefined;
  edit: (ratios: [number, number] | null) => void;
  wrong: (path: string) => string | undefined;
};

const RANGE = { min: 0.9, max: 100 };

/** The focal ratios that a filter is made for, fastest and slowest: a pre-shifted one says so. */
export function DesignRatios({ value, edit, wrong }: Props) {
  const hint = "A band that is made for a fast cone is shifted to the red; its box or data sheet says so.";
  if (!value)
    return (
      <div className="self-end" title={hint}>
        <Button look="quiet" className="h-auto min-h-8 text-left whitespace-normal!" onClick={() => edit([2, 3.5])}>
          + Design focal ratio
        </Button>
      </div>
    );
  const [fast = 2, slow = 10] = value;
  const at = "filter.design_focal_ratios";
  return (
    <div title={hint}>
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label="Made for f/"
          value={fast}
          {...RANGE}
          error={wrong(`${at}[0]`)}
          onChange={(v) => edit([v, slow])}
        />
        <NumberField
          label="to f/"
          value={slow}
          {...RANGE}
          error={wrong(`${at}[1]`)}
          onChange={(v) => edit([fast, v])}
        />
      </div>
      <button
        type="button"
        className="min-h-[24px] text-[0.8rem] text-muted underline underline-offset-4 hover:text-ink"
        onClick={() => edit(null)}
      >
        leave out
      </button>
    </div>
  );
}
