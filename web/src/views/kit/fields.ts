import { range } from "@/parts/range";
import { where } from "@/parts/where";

/** One field of an entry: its path, its name, its unit and its range. */
export type Field = {
  path: string;
  label: string;
  unit?: string;
  range: { min: number; max: number };
  /** May be left out; `from` is what it begins with. */
  optional?: { from: number };
  /** Where the number is found. */
  hint?: string;
};

const f = (path: string, label: string, unit: string | undefined, range: Field["range"], hint?: string): Field => ({
  path,
  label,
  ...(unit && { unit }),
  range,
  ...(hint && { hint }),
});
const maybe = (from: number, field: Field): Field => ({ ...field, optional: { from } });

export const FIELDS: Record<string, Field[]> = {
  site: [
    f("latitude_deg", "Latitude, north +", "°", range("Site", "latitude_deg"), "On any map; two decimals do."),
    f("longitude_deg", "Longitude, east +", "°", range("Site", "longitude_deg"), "West is negative."),
    f("height_m", "Above the sea", "m", range("Site", "height_m")),
    f(
      "zenith_v_mag",
      "Zenith, no moon",
      "mag/″²",
      range("Site", "zenith_v_mag"),
      "A sky meter pointed up, or a test frame; a class is coarse.",
    ),
    maybe(0.2, f("k_v", "Extinction, V", "mag", range("Site", "k_v"), "From a star followed as it sinks.")),
    maybe(
      2.5,
      f(
        "seeing_fwhm_arcsec",
        "Seeing",
        "″",
        range("Site", "seeing_fwhm_arcsec"),
        "Width of stars in your sharpest subs, times the pixel scale.",
      ),
    ),
    maybe(
      40,
      f(
        "nights_per_year",
        "Clear nights a year",
        undefined,
        range("Site", "nights_per_year"),
        "Those you really go out on.",
      ),
    ),
  ],
  telescope: [
    f("optics.aperture_mm", "Aperture", "mm", range("Optics", "aperture_mm")),
    f(
      "optics.focal_length_mm",
      "Focal length",
      "mm",
      range("Optics", "focal_length_mm"),
      "A plate solution says best.",
    ),
    f("optics.obstruction_mm", "Obstruction", "mm", range("Optics", "obstruction_mm"), "Outer width of the secondary."),
    f("optics.reducer", "Reducer", "×", range("Optics", "reducer")),
    f("optics.throughput", "Light passed", "0–1", range("Optics", "throughput"), "About 0.9 a pair of mirrors."),
    maybe(300, f("optics.longest_sub_s", "Longest round sub", "s", range("Optics", "longest_sub_s"))),
    maybe(
      200,
      f(
        "optics.exit_pupil_mm",
        "Exit pupil before sensor",
        "mm",
        range("Optics", "exit_pupil_mm"),
        "From the corrector's data; sets how rays lean in the corners.",
      ),
    ),
    maybe(0, f("price", "Price", undefined, range("Contender", "price"))),
  ],
  filter: [
    f("filter.off_band_od", "Blocking", "OD", range("Filter", "off_band_od"), "On its data sheet; 4 is usual."),
    f("filter.n_eff", "Effective index", undefined, range("Filter", "n_eff"), "1.7 to 2.1: how little tilt shifts it."),
    f("filter.centre_tolerance_nm", "Centre tolerance", "± nm", range("Filter", "centre_tolerance_nm")),
    maybe(
      0.01,
      f(
        "filter.rear_reflectance",
        "Rear reflectance",
        "0–1",
        range("Filter", "rear_reflectance"),
        "Of the band's light; 0.04 is common, 0.004 good.",
      ),
    ),
    maybe(2, f("filter.thickness_mm", "Thickness", "mm", range("Filter", "thickness_mm"), "1, 2 or 3 mm; callipers.")),
    maybe(0, f("filter.price", "Price", undefined, range("Filter", "price"))),
  ],
  camera: [
    f("sensor.pixel_um", "Pixel", "µm", range("Sensor", "pixel_um")),
    f("sensor.columns", "Columns", "px", range("Sensor", "columns")),
    f("sensor.rows", "Rows", "px", range("Sensor", "rows")),
    f("sensor.bits", "Converter", "bit", range("Sensor", "bits")),
    f("sensor.offset_adu", "Offset", "ADU", range("Sensor", "offset_adu"), "Mean of a bias frame."),
    f("sensor.readout_s", "Readout", "s", range("Sensor", "readout_s")),
    f("sensor.dark.e_per_s", "Dark current", "e-/s", range("Dark", "e_per_s")),
    f("sensor.dark.at_c", "Dark current at", "°C", range("Dark", "at_c")),
    f("sensor.dark.doubling_k", "It doubles every", "K", range("Dark", "doubling_k")),
    maybe(
      10,
      f("sensor.rise_above_ambient_k", "Uncooled: rise above air", "K", range("Sensor", "rise_above_ambient_k")),
    ),
    f("usual_gain", "Usual gain", undefined, range("Contender", "gain")),
    f("usual_temperature_c", "Usual set point", "°C", range("Contender", "sensor_temperature_c")),
    maybe(0, f("price", "Price", undefined, range("Contender", "price"))),
  ],
  rig: [
    maybe(1, f("reducer", "Reducer in use", "×", range("Rig", "reducer"), "Else the telescope's own.")),
    maybe(100, f("gain", "Gain", undefined, range("Rig", "gain"), "Else the camera's usual one.")),
    maybe(-10, f("temperature_c", "Set point", "°C", range("Rig", "temperature_c"), "Else the camera's usual one.")),
    maybe(
      300,
      f(
        "longest_sub_s",
        "Longest round sub",
        "s",
        range("Rig", "longest_sub_s"),
        "What this mount holds; else the telescope's own limit.",
      ),
    ),
    f("overhead_s_per_sub", "Lost after each sub", "s", range("Rig", "overhead_s_per_sub"), "Download and settling."),
    f("loss_per_hour", "Subs spoiled", "per h", range("Rig", "loss_per_hour"), "Gusts, aircraft, clouds that pass."),
    maybe(
      0,
      f("extra_price", "Mount and the rest, price", undefined, range("Rig", "extra_price"), "On top of the parts."),
    ),
    maybe(
      55,
      f(
        "back_focus_mm",
        "Back focus without glass",
        "mm",
        range("Rig", "back_focus_mm"),
        "Shoulder to sensor, as the corrector wants it.",
      ),
    ),
  ],
};

/** What a field is called on this page. */
export const labelOf = (kind: string, path: string) =>
  FIELDS[kind]?.find((field) => path === `thing.item.${field.path}`)?.label ?? where(path);
