import { describe, expect, it } from "vitest";
import type { Campaign, Scenario } from "@/api/client";
import type { SiteEntry } from "@/parts/evening";
import { nightQuestion } from "./question";

const scenario = {
  title: "t",
  goal_snr: 15,
  target: { name: "IC 443" },
  sky: { zenith_v_mag: 18, toward_target_v_mag: 17.5, natural_v_mag: 21.9 },
  contenders: [{ exposures: [{ filter: { name: "Ha" } }, { filter: { name: "OIII" } }] }],
} as unknown as Scenario;
const site = {
  id: "larch-lane",
  entry: { name: "Larch Lane" },
  site: {
    latitude_deg: 46,
    longitude_deg: -72,
    height_m: 30,
    zenith_v_mag: 19.3,
    lamps: { led_3000k: 1 },
    horizon_deg: [[0, 10]],
  },
} as unknown as SiteEntry;
const night = (date: string, snr2: number, planned = false) => ({
  date,
  planned,
  note: "",
  shots: [{ exposure: 0, subs: 10, snr2 }],
});
const campaign = {
  scenario,
  contender: 0,
  framing: { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 0 },
  goals: [{ exposure: 1, snr: 30 }],
  nights: [night("2027-01-10", 40), night("2027-01-11", 25), night("2027-01-28", 60), night("2027-02-01", 99, true)],
} as unknown as Campaign;
const asked = {
  scenario,
  row: 0,
  site,
  date: "2027-01-28",
  mode: "balanced",
  hours: { sun: -18, above: 25, from: null, until: null, before: null, after: null },
  overheads: {},
  minutes: {},
  counts: null,
  locked: [],
  struckOut: [],
  weigh: true,
  further: [],
};
const object = { name: "NGC 3031", kind: "galaxy_with_h_ii", ra_deg: 148.9, dec_deg: 69.07 } as never;
const catalogued = { name: "NGC 3031", kind: "galaxy_with_h_ii", lines_rayleigh: { ha: 40 }, peak_factor: 3 } as never;

describe("the question to the planner", () => {
  it("takes its sky from the site, and no reading towards the target", () => {
    const q = nightQuestion(asked);
    expect(q.scenario.sky).toMatchObject({ zenith_v_mag: 19.3, lamps: { led_3000k: 1 }, natural_v_mag: 21.9 });
    expect(q.scenario.sky.toward_target_v_mag).toBeNull();
    expect(q.limits).toEqual({
      sun_below_deg: -18,
      altitude_above_deg: 25,
      horizon_deg: [[0, 10]],
      not_before: null,
      not_after: null,
    });
    expect([q.campaign, q.first_limits, q.others]).toEqual([null, null, []]);
  });
  it("hands over the campaign as it stands", () => {
    expect(nightQuestion({ ...asked, campaign }).campaign).toBe(campaign);
  });
  it("wants what the mode says", () => {
    const goal = (mode: string, minutes = {}) => nightQuestion({ ...asked, mode, minutes }).plan?.goal;
    expect(goal("balanced")).toEqual({ kind: "balanced" });
    expect(goal("ha_first")).toEqual({ kind: "ha_first" });
    expect(goal("oiii")).toEqual({ kind: "most", quantity: "oiii" });
    expect(goal("fixed", { 0: 0, 1: 45 })).toEqual({
      kind: "fixed",
      blocks: [{ exposure: 1, minutes: 45, subs: null }],
    });
    expect(nightQuestion({ ...asked, mode: "fixed", counts: { 0: 24, 1: 0 } }).plan?.goal).toEqual({
      kind: "fixed",
      blocks: [{ exposure: 0, minutes: 60, subs: 24 }],
    });
    expect(goal("fixed")).toEqual({
      kind: "fixed",
      blocks: [
        { exposure: 0, minutes: 60, subs: null },
        { exposure: 1, minutes: 60, subs: null },
      ],
    });
  });
});

describe("a further target", () => {
  const further = { what: "t:NGC 3031", name: "NGC 3031", change: "sinks" as const };
  const other = (f: object) => nightQuestion({ ...asked, further: [{ ...further, ...f }] }).others?.[0];
  it("emits what the catalogue knows of it, unless something was kept for it", () => {
    const second = other({ known: { object, catalogued } });
    expect(second?.target).toBe(catalogued);
    expect(second?.place).toEqual({ ra_deg: 148.9, dec_deg: 69.07 });
    const own = { name: "NGC 3031", kind: "galaxy_with_h_ii", lines_rayleigh: { ha: 7 } } as never;
    expect(other({ known: { object, emission: own, catalogued } })?.target).toBe(own);
  });
  it("goes on where its own campaign stands, with its own rig under the night's site", () => {
    expect(other({ what: "c:x", campaign })).toMatchObject({
      scenario: { target: { name: "IC 443" }, sky: { zenith_v_mag: 19.3 } },
      contender: 0,
      campaign: { goals: [{ exposure: 1, snr: 30 }] },
    });
  });
  it("has its own limits and takes over as it is told", () => {
    const f = { known: { object, catalogued }, change: "at" as const, time: "22:30", above: 35, after: "02:00" };
    expect(other(f)).toMatchObject({
      change: { kind: "at", time: "22:30" },
      limits: { altitude_above_deg: 35, not_before: null, not_after: "02:00", horizon_deg: [[0, 10]] },
    });
  });
});
