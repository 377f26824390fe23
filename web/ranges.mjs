// Writes what the core accepts (minimum, maximum, default) from the API's description into src/api/ranges.ts, for forms and sliders.
import { readFileSync, writeFileSync } from "node:fs";

const SCHEMAS =
  "Scenario Calibration Choices Uncertainty Target LinesRayleigh Continuum Sky Moon Contender Mount Dither Optics Sensor GainRow Dark Exposure TestFrame Filter Passband LookView Overheads FixedBlock NightLimits Site Rig Campaign CampaignFraming CampaignGoal Shot FramePlan Goal TrialDesign".split(
    " ",
  );
const { schemas } = JSON.parse(readFileSync(new URL("../docs/openapi.json", import.meta.url), "utf8")).components;
const out = {};
for (const name of SCHEMAS) {
  const fields = Object.entries(schemas[name]?.properties ?? {}).filter(([, f]) => "maximum" in f);
  out[name] = Object.fromEntries(
    fields.map(([key, f]) => [
      key,
      { min: f.minimum, max: f.maximum, ...(typeof f.default === "number" ? { usual: f.default } : {}) },
    ]),
  );
}
const text = `// Written by ranges.mjs from docs/openapi.json. Do not edit.
/** What the core accepts for each number of a document, and what a number is worth that was left out. */
export const RANGES = ${JSON.stringify(out, null, 2)} as const;
`;
writeFileSync(new URL("src/api/ranges.ts", import.meta.url), text);
