import { expect, test } from "vitest";
import type { Scenario } from "@/api/client";
import { where } from "./where";

const scenario = {
  contenders: [{ exposures: [{ filter: { name: "H-alpha 3 nm" } }, { filter: null }] }],
} as unknown as Scenario;

test("a path is said as people say it", () => {
  expect(where("contenders[0].exposures[0].sub_s", scenario)).toBe("path A, H-alpha 3 nm, sub");
  expect(where("contenders[0].exposures[0].filter.bands[1].fwhm_nm", scenario)).toBe(
    "path A, H-alpha 3 nm, bands 2, fwhm",
  );
  expect(where("contenders[0].exposures[1]", scenario)).toBe("path A, no filter");
  expect(where("contenders[3].optics.aperture_mm", scenario)).toBe("path D, optics, aperture");
  expect(where("sky.zenith_v_mag", scenario)).toBe("sky, zenith");
  expect(where("total_s", scenario)).toBe("total");
  expect(where("names[1]")).toBe("object 2");
});

test("a document within another is told by its own fields", () => {
  expect(where("scenario.contenders[0].exposures[1].sub_s")).toBe("path A, filter 2, sub");
  expect(where("thing.item.optics.aperture_mm")).toBe("optics, aperture");
  expect(where("plan.overheads.flip_s")).toBe("overheads, flip");
});
