import type { Scenario } from "@/api/client";
import { contenderMark } from "@/theme/marks";

const UNITS = /_(mm|um|nm|s|s_per_sub|c|k|deg|m|e|adu|e_per_adu|arcsec|v_mag|v_mag_arcsec2|per_hour|rayleigh)$/;
/** Words for a field's name as it stands in a scenario: "aperture_mm" is the aperture. */
const field = (name: string) => {
  const [, plain = name, row] = name.match(/^(.*?)(?:\[(\d+)\])?$/) ?? [];
  const words = plain === "names" ? "object" : plain.replace(UNITS, "").replaceAll("_", " ");
  return row === undefined ? words : `${words} ${Number(row) + 1}`;
};

/** What a path begins with when the document stands within another. */
const WITHIN = /^(scenario|thing\.item|view|plan|limits)\./;

/**
 * Where in a document a path points, as people say it: "contenders[0].exposures[1].sub_s" is "path A, [O III] 3 nm, sub". Without the
 * scenario its filters are told by their number.
 */
export function where(whole: string, scenario?: Scenario): string {
  const path = whole.replace(WITHIN, "");
  const [, c, e, rest = path] = path.match(/^contenders\[(\d+)\](?:\.exposures\[(\d+)\])?\.?(.*)$/) ?? [];
  const out: string[] = [];
  if (c !== undefined) {
    out.push(`path ${contenderMark(Number(c)).letter}`);
    const filter = scenario?.contenders[Number(c)]?.exposures[Number(e)]?.filter?.name;
    if (e !== undefined) out.push(scenario ? (filter ?? "no filter") : `filter ${Number(e) + 1}`);
  }
  const names = rest.split(".").filter((n) => n !== "" && !(e !== undefined && n === "filter"));
  return [...out, ...names.map(field)].join(", ");
}
