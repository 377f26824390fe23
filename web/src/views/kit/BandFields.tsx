import { useQuery } from "@tanstack/react-query";
import type { Library } from "@/api/client";
import { libraryQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { range } from "@/parts/range";
import { Source } from "./Source";

export type Band = { centre_nm: number; fwhm_nm: number; peak: number; order: number };
type Props = {
  bands: Band[];
  edit: (path: string, value: unknown) => void;
  wrong: (path: string) => string | undefined;
  sourceOf: (path: string) => string;
  /** Puts a curve of the same shape in the bands' place. */
  asCurve: () => void;
};

/** What a band is called: by the lines whose wavelength lies in it, as it stands in parallel light. */
const bandName = ({ centre_nm, fwhm_nm }: Band, lines: Library["lines"]) => {
  const held = lines.filter((l) => Math.abs(l.wavelength_nm - centre_nm) <= fwhm_nm / 2).map((l) => l.name);
  return [...new Set(held)].join(", ") || `${centre_nm} nm`;
};

/** The passbands of a filter. */
export function BandFields({ bands, edit, wrong, sourceOf, asCurve }: Props) {
  const library = useQuery(libraryQuery);
  return (
    <div className="mt-4">
      <h3 className="font-medium">Bands</h3>
      {bands.map((b, i) => (
        <fieldset key={i} className="mt-2 grid min-w-0 grid-cols-4 gap-3 max-md:grid-cols-2">
          <legend className="text-[0.9rem] text-salt">{bandName(b, library.data?.lines ?? [])}</legend>
          {(
            [
              ["centre_nm", "Centre", "nm"],
              ["fwhm_nm", "Width", "nm"],
              ["peak", "Peak", "0–1"],
              ["order", "Edge steepness", undefined],
            ] as const
          ).map(([f, label, unit]) => (
            <NumberField
              key={f}
              label={label}
              unit={unit}
              value={b[f]}
              {...range("Passband", f)}
              error={wrong(`filter.bands[${i}].${f}`)}
              onChange={(v) =>
                edit(
                  "filter.bands",
                  bands.map((x, j) => (j === i ? { ...x, [f]: v } : x)),
                )
              }
            />
          ))}
        </fieldset>
      ))}
      <Source text={sourceOf("filter.bands")} />
      <div className="mt-2 flex flex-wrap gap-2">
        <Button
          look="quiet"
          onClick={() => edit("filter.bands", [...bands, { centre_nm: 500.7, fwhm_nm: 7, peak: 0.9, order: 3 }])}
        >
          + Band
        </Button>
        {bands.length > 1 && (
          <Button look="quiet" onClick={() => edit("filter.bands", bands.slice(0, -1))}>
            Remove the last
          </Button>
        )}
        <Button look="quiet" onClick={asCurve}>
          Use a curve instead
        </Button>
      </div>
    </div>
  );
}
