import { Plus } from "lucide-react";
import type { Target } from "@/api/client";
import { Button } from "./controls/Button";
import { NumberField } from "./controls/NumberField";
import { range, usual } from "./range";

const LABELS = {
  ha: "H-alpha",
  nii: "[N II] 658.3",
  oiii: "[O III] 500.7",
  sii: "[S II], both",
  hb: "H-beta",
} as const;

type Props = {
  target: Target;
  edit: (f: (target: Target) => void) => void;
  wrong?: (path: string) => string | undefined;
};

/** What a target emits, every number with its unit. */
export function EmissionFields({ target, edit, wrong = () => undefined }: Props) {
  const { continuum } = target;
  return (
    <>
      {(Object.keys(LABELS) as (keyof typeof LABELS)[]).map((k) => (
        <NumberField
          key={k}
          label={LABELS[k]}
          unit="R"
          value={Number(target.lines_rayleigh[k].toPrecision(6))}
          {...range("LinesRayleigh", k)}
          error={wrong(`target.lines_rayleigh.${k}`)}
          testId={`line-${k}`}
          onChange={(v) => edit((t) => void (t.lines_rayleigh[k] = v))}
        />
      ))}
      <NumberField
        label="Brightest part"
        unit="× mean"
        value={target.peak_factor ?? usual("Target", "peak_factor")}
        {...range("Target", "peak_factor")}
        onChange={(v) => edit((t) => void (t.peak_factor = v))}
      />
      {continuum ? (
        <>
          <NumberField
            label="Continuum, V"
            unit="mag/″²"
            value={continuum.v_mag_arcsec2}
            {...range("Continuum", "v_mag_arcsec2")}
            onChange={(v) => edit((t) => void (t.continuum && (t.continuum.v_mag_arcsec2 = v)))}
          />
          {continuum.b_v == null ? (
            <NumberField
              label="Its colour"
              unit="K"
              value={continuum.temperature_k}
              {...range("Continuum", "temperature_k")}
              onChange={(v) => edit((t) => void (t.continuum && (t.continuum.temperature_k = v)))}
            />
          ) : (
            <NumberField
              label="Its colour, B − V"
              unit="mag"
              value={continuum.b_v}
              {...range("Continuum", "b_v")}
              onChange={(v) => edit((t) => void (t.continuum && (t.continuum.b_v = v)))}
            />
          )}
          <Button
            look="quiet"
            onClick={() => edit((t) => void (t.continuum && (t.continuum.b_v = continuum.b_v == null ? 0.6 : null)))}
          >
            {continuum.b_v == null ? "Colour as B − V" : "Colour in K"}
          </Button>
          <Button look="quiet" onClick={() => edit((t) => void (t.continuum = null))}>
            Without continuum
          </Button>
        </>
      ) : (
        <div className="self-end">
          <Button onClick={() => edit((t) => void (t.continuum = { v_mag_arcsec2: 24, temperature_k: 6000 }))}>
            <Plus size={14} aria-hidden /> Continuum
          </Button>
        </div>
      )}
    </>
  );
}

/** Changes a target by hand: what is typed is no preset any more; what was measured stays so. */
export function typed(target: Target, how: (target: Target) => void) {
  how(target);
  if (target.known !== "measured") target.known = null;
}
