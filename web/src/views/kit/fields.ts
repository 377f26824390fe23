import { range } from "@/parts/range";
import { where } from "@/parts/where";

/** One field of an entry: its path, its name, its unit and its range. */
export type Field = [
  path: string,
  label: string,
  unit: string | undefined,
  range: { min: number; max: number },
  optional?: true,
];
export const FIELDS: Record<string, Field[]> = {
  site: [
    ["latitude_deg", "Latitude, north +", "°", range("Site", "latitude_deg")],
    ["longitude_deg", "Longitude, east +", "°", range("Site", "longitude_deg")],
    ["height_m", "Above the sea", "m", range("Site", "height_m")],
    ["zenith_v_mag", "Zenith, no moon", "mag/″²", range("Site", "zenith_v_mag")],
    ["k_v", "Extinction, V", "mag", range("Site", "k_v"), true],
  ],
  telescope: [
    ["optics.aperture_mm", "Aperture", "mm", range("Optics", "aperture_mm")],
    ["optics.focal_length_mm", "Focal length", "mm", range("Optics", "focal_length_mm")],
    ["optics.obstruction_mm", "Obstruction", "mm", range("Optics", "obstruction_mm")],
    ["optics.reducer", "Reducer", "×", range("Optics", "reducer")],
    ["optics.throughput", "Light passed", "0–1", range("Optics", "throughput")],
    ["optics.longest_sub_s", "Longest round sub", "s", range("Optics", "longest_sub_s"), true],
    ["price", "Price", undefined, range("Contender", "price"), true],
  ],
  filter: [
    ["filter.off_band_od", "Blocking", "OD", range("Filter", "off_band_od")],
    ["filter.n_eff", "Effective index", undefined, range("Filter", "n_eff")],
    ["filter.centre_tolerance_nm", "Centre tolerance", "± nm", range("Filter", "centre_tolerance_nm")],
    ["filter.rear_reflectance", "Rear reflectance", "0–1", range("Filter", "rear_reflectance"), true],
    ["filter.price", "Price", undefined, range("Filter", "price"), true],
  ],
  camera: [
    ["sensor.pixel_um", "Pixel", "µm", range("Sensor", "pixel_um")],
    ["sensor.columns", "Columns", "px", range("Sensor", "columns")],
    ["sensor.rows", "Rows", "px", range("Sensor", "rows")],
    ["sensor.bits", "Converter", "bit", range("Sensor", "bits")],
    ["sensor.offset_adu", "Offset", "ADU", range("Sensor", "offset_adu")],
    ["sensor.readout_s", "Readout", "s", range("Sensor", "readout_s")],
    ["sensor.dark.e_per_s", "Dark current", "e-/s", range("Dark", "e_per_s")],
    ["sensor.dark.at_c", "Dark current at", "°C", range("Dark", "at_c")],
    ["sensor.dark.doubling_k", "It doubles every", "K", range("Dark", "doubling_k")],
    ["sensor.rise_above_ambient_k", "Uncooled: rise above air", "K", range("Sensor", "rise_above_ambient_k"), true],
    ["usual_gain", "Usual gain", undefined, range("Contender", "gain")],
    ["usual_temperature_c", "Usual set point", "°C", range("Contender", "sensor_temperature_c")],
    ["price", "Price", undefined, range("Contender", "price"), true],
  ],
};

/** What a field is called on this page. */
export const labelOf = (kind: string, path: string) =>
  FIELDS[kind]?.find(([p]) => path === `thing.item.${p}`)?.[1] ?? where(path);
