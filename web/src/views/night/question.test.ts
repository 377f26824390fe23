import { describe, expect, it } from "vitest";
import type { Campaign, Library, Plan, Scenario } from "@/api/client";
import type { SiteEntry } from "@/parts/evening";
import { doneBefore, nightQuestion, ofPlan, withNight } from "./question";

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
  above: 25,
  overheads: {},
  minutes: {},
  locked: { first: [], second: [] },
};
const object = { name: "NGC 3031", kind: "galaxy_with_h_ii", ra_deg: 148.9, dec_deg: 69.07 } as never;
const library = {
  targets: [
    { kind: "galaxy_with_h_ii", faintness: "moderate", lines_rayleigh: { ha: 40 }, continuum: null, peak_factor: 3 },
  ],
} as unknown as Library;

describe("the question to the planner", () => {
  it("takes its sky from the site, and no reading towards the target", () => {
    const q = nightQuestion(asked);
    expect(q.scenario.sky).toMatchObject({ zenith_v_mag: 19.3, lamps: { led_3000k: 1 }, natural_v_mag: 21.9 });
    expect(q.scenario.sky.toward_target_v_mag).toBeNull();
    expect(q.limits).toEqual({ sun_below_deg: -18, altitude_above_deg: 25, horizon_deg: [[0, 10]] });
    expect([q.place, q.second]).toEqual([null, null]);
  });
  it("takes goals, framing and what is done from a campaign", () => {
    const q = nightQuestion({ ...asked, campaign });
    expect(q.place).toEqual({ ra_deg: 94.25, dec_deg: 22.57 });
    expect(q.plan).toMatchObject({ goal_snr: [15, 30], done_snr2: [65, 0] });
  });
  it("wants what the mode says", () => {
    const goal = (mode: string, minutes = {}) => nightQuestion({ ...asked, mode, minutes }).plan?.goal;
    expect(goal("balanced")).toEqual({ kind: "balanced" });
    expect(goal("oiii")).toEqual({ kind: "most", quantity: "oiii" });
    expect(goal("fixed", { 0: 0, 1: 45 })).toEqual({ kind: "fixed", blocks: [{ exposure: 1, minutes: 45 }] });
    expect(goal("fixed")).toEqual({
      kind: "fixed",
      blocks: [
        { exposure: 0, minutes: 60 },
        { exposure: 1, minutes: 60 },
      ],
    });
  });
});

describe("a second target", () => {
  it("emits what its kind does typically, unless something was kept for it", () => {
    const typical = nightQuestion({ ...asked, second: { object }, library }).second;
    expect(typical?.target).toMatchObject({ name: "NGC 3031", lines_rayleigh: { ha: 40 }, peak_factor: 3 });
    expect(typical?.place).toEqual({ ra_deg: 148.9, dec_deg: 69.07 });
    const own = { name: "NGC 3031", kind: "galaxy_with_h_ii", lines_rayleigh: { ha: 7 } } as never;
    expect(nightQuestion({ ...asked, second: { object, emission: own }, library }).second?.target).toBe(own);
    expect(nightQuestion({ ...asked, second: { object } }).second).toBeNull();
  });
  it("goes on where its own campaign stands", () => {
    const q = nightQuestion({ ...asked, second: { object }, secondCampaign: campaign, library }).second;
    expect(q).toMatchObject({
      target: { name: "IC 443" },
      place: { ra_deg: 94.25, dec_deg: 22.57 },
      goal_snr: [15, 30],
      done_snr2: [65, 0],
    });
  });
});

describe("what a campaign has", () => {
  it("leaves out what is only planned, and the evening in question", () => {
    expect(doneBefore(campaign, 2, "2027-01-28")).toEqual([65, 0]);
    expect(doneBefore(campaign, 2, "2027-03-01")).toEqual([125, 0]);
    expect(doneBefore({ ...campaign, nights: undefined } as Campaign, 2, "2027-03-01")).toEqual([0, 0]);
  });
});

describe("a night that is recorded", () => {
  const plan = {
    totals: [
      { exposure: 0, subs: 30 },
      { exposure: 1, subs: 0 },
    ],
    blocks: [
      { exposure: 0, snr2: 40, lines_snr2: { ha: 40, oiii: 8 } },
      { exposure: 0, snr2: 2.5, lines_snr2: { ha: 2.5, oiii: 1 } },
    ],
  } as unknown as Plan;
  const nights = campaign.nights ?? [];
  it("adds what its blocks gathered, filter by filter", () => {
    const after = withNight(nights, ofPlan("2027-03-05", plan, false));
    expect(after).toHaveLength(5);
    expect(after?.at(-1)).toEqual({
      date: "2027-03-05",
      planned: false,
      note: "",
      shots: [{ exposure: 0, subs: 30, snr2: 42.5, lines_snr2: { ha: 42.5, oiii: 9 } }],
    });
  });
  it("takes the place of its plan", () => {
    const after = withNight(nights, ofPlan("2027-02-01", plan, false)) ?? [];
    expect(after.filter((n) => n.date === "2027-02-01")).toEqual([
      {
        date: "2027-02-01",
        planned: false,
        note: "",
        shots: [{ exposure: 0, subs: 30, snr2: 42.5, lines_snr2: { ha: 42.5, oiii: 9 } }],
      },
    ]);
    expect(withNight(nights, ofPlan("2027-02-01", plan, true))).toHaveLength(4);
  });
  it("does not count twice", () => {
    expect(withNight(nights, ofPlan("2027-01-28", plan, false))).toBeNull();
    expect(withNight(nights, ofPlan("2027-01-28", plan, true))).toBeNull();
  });
});
