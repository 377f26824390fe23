import { expect, test } from "vitest";
import type { OfferOfNight } from "@/api/log";
import { decimalsFor, hourWords, lessonName, offerWords } from "./lessons";

const offer = (more: Partial<OfferOfNight["offer"]>): OfferOfNight["offer"] => ({
  lesson: "zenith",
  now: { value: 21.6, sd: 0.5 },
  measured: { value: 21.25, sd: 0.02 },
  offered: { value: 21.278, sd: 0.144 },
  unit: " V mag/arcsec²",
  evidence: "",
  ...more,
});

test("an offer says what was, what is offered and how sure, to the figures that mean something", () => {
  expect(offerWords(offer({}))).toBe("21.60 → 21.28 ± 0.14 V mag/arcsec²");
  const lamps = offer({
    lesson: "lamps_off",
    now: { value: 0, sd: 0.5 },
    offered: { value: 0.31, sd: 0.05 },
    unit: " mag",
    from_solar_hour: 22.999,
  });
  expect(offerWords(lamps)).toBe("0.000 → 0.310 ± 0.050 mag from 23:00 mean solar time on");
  expect(lessonName(offer({ lesson: "read_noise", gain: 100 }))).toBe("Read noise at gain 100");
});

test("figures beyond the second of a deviation are not written", () => {
  expect([0.5, 0.05, 0.0123, 12, 0].map(decimalsFor)).toEqual([2, 3, 3, 0, 2]);
  expect([0, 23.999, 4.25].map(hourWords)).toEqual(["0:00", "0:00", "4:15"]);
});
