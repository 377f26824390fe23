import type { FrameMeasured } from "@/api/client";
import { NumberField } from "@/parts/controls/NumberField";

type Header = FrameMeasured["header"];

/** What can be put right, with its unit and how it is said. */
const CORRECTED: { key: keyof Header; label: string; unit?: string; min: number; max: number }[] = [
  { key: "exposure_s", label: "Exposure", unit: "s", min: 0.0001, max: 100_000 },
  { key: "gain", label: "Gain setting", min: 0, max: 1e7 },
  { key: "e_per_adu", label: "Electrons an ADU", unit: "e-/ADU", min: 1e-6, max: 1e4 },
  { key: "offset_adu", label: "Offset", unit: "ADU", min: 0, max: 1e6 },
  { key: "binning", label: "Binning", min: 1, max: 16 },
];

/** The rest of what headers say, in the order in which one asks. */
const TOLD: [keyof Header, string, string?][] = [
  ["type", "Kind"],
  ["start", "Begun"],
  ["object", "Object"],
  ["filter", "Filter"],
  ["sensor_c", "Sensor", "°C"],
  ["offset", "Offset setting"],
  ["pixel_um", "Pixel", "um"],
  ["focal_length_mm", "Focal length", "mm"],
  ["ra_deg", "Right ascension", "°"],
  ["dec_deg", "Declination", "°"],
  ["position_angle_deg", "Position angle", "°"],
  ["airmass", "Airmass"],
  ["pier_side", "Pier side"],
  ["focuser_steps", "Focuser"],
  ["camera", "Camera"],
  ["telescope", "Telescope"],
];

const said = (v: unknown) => (typeof v === "number" ? String(Number(v.toPrecision(7))) : String(v));

type Props = { frame: FrameMeasured; set: (next: FrameMeasured) => void };

/** What was understood of a header, from which key; the numbers that judge the frame can be put right. */
export function FrameHeader({ frame, set }: Props) {
  const { header, understood, assumed } = frame;
  const put = (key: keyof Header, value: number) =>
    set({ ...frame, header: { ...header, [key]: value }, understood: { ...understood, [key]: "typed here" } });
  return (
    <section aria-label="What the header says" className="rounded-xl bg-surface px-4 py-3" data-testid="frame-said">
      <h3 className="font-medium">What its header says</h3>
      <div className="mt-2 grid grid-cols-2 gap-2 sm:grid-cols-3">
        {CORRECTED.map(({ key, label, unit, min, max }) => (
          <div key={key}>
            <NumberField
              {...{ label, min, max }}
              {...(unit ? { unit } : {})}
              value={(header[key] as number | null | undefined) ?? null}
              onChange={(v) => put(key, v)}
              testId={`frame-header-${key}`}
            />
            <p className="num text-[0.8rem] text-muted">{understood?.[key] ?? "not said: the kit's"}</p>
          </div>
        ))}
      </div>
      <table className="mt-2 w-full text-[0.88rem]">
        <tbody>
          {TOLD.filter(([key]) => header[key] != null).map(([key, label, unit]) => (
            <tr key={key}>
              <th scope="row" className="pr-3 text-left font-normal whitespace-nowrap text-muted">
                {label}
              </th>
              <td className="num pr-3 break-words">
                {said(header[key])}
                {unit ? ` ${unit}` : ""}
              </td>
              <td className="num text-muted">{understood?.[key] ?? ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {(assumed ?? []).map((a) => (
        <p key={a} className="mt-1 text-[0.88rem] text-amber">
          {a}
        </p>
      ))}
    </section>
  );
}
