import { describe, expect, it } from "vitest";
import type { Scenario, StoredScenario } from "@/api/client";
import { applyParams, sceneToParams } from "./scene/address";
import { type State, step } from "./useDraft";

const scenario = (zenith: number): Scenario =>
  ({
    title: "t",
    total_s: 3600,
    goal_snr: 20,
    sky: { zenith_v_mag: zenith, target_altitude_deg: 60, lamps: {}, moon: null },
  }) as unknown as Scenario;
const stored = (revision: number, s: Scenario) => ({ id: "a", revision, scenario: s }) as unknown as StoredScenario;
const start: State = {
  past: [],
  now: scenario(20),
  future: [],
  stored: stored(3, scenario(20)),
  baseRevision: 3,
  open: false,
};

const to = (zenith: number) => ({ do: "change" as const, how: (s: Scenario) => void (s.sky.zenith_v_mag = zenith) });

describe("a draft", () => {
  it("takes two changes of one moment both, and leaves what it started from", () => {
    const both = step(step(start, to(21)), { do: "change", how: (s) => void (s.goal_snr = 9) });
    expect([both.now.sky.zenith_v_mag, both.now.goal_snr]).toEqual([21, 9]);
    expect([start.now.sky.zenith_v_mag, start.now.goal_snr]).toEqual([20, 20]);
  });
  it("takes a drag as one step to undo", () => {
    const dragged = [20.1, 20.2, 20.3].reduce((s, z) => step(s, to(z)), start);
    const settled = step(dragged, { do: "settle" });
    const undone = step(settled, { do: "undo" });
    expect(undone.now.sky.zenith_v_mag).toBe(20);
    expect(step(undone, { do: "redo" }).now.sky.zenith_v_mag).toBe(20.3);
  });
  it("takes separate changes as separate steps, and a change drops what was undone", () => {
    const two = [20.5, 21].reduce((s, z) => step(step(s, to(z)), { do: "settle" }), start);
    const back = step(two, { do: "undo" });
    expect(back.now.sky.zenith_v_mag).toBe(20.5);
    expect(step(back, to(19)).future).toEqual([]);
  });
  it("does nothing where there is nothing to undo", () => {
    expect(step(start, { do: "undo" })).toBe(start);
    expect(step(start, { do: "redo" })).toBe(start);
  });
  it("stands on the revision that was stored last", () => {
    const saved = step({ ...start, now: scenario(21) }, { do: "stored", stored: stored(4, scenario(21)), take: false });
    expect([saved.baseRevision, saved.now.sky.zenith_v_mag]).toEqual([4, 21]);
    const theirs = step({ ...start, now: scenario(21) }, { do: "stored", stored: stored(5, scenario(18)), take: true });
    expect([theirs.baseRevision, theirs.now.sky.zenith_v_mag]).toEqual([5, 18]);
  });
});

describe("the scene in the address", () => {
  it("says only what differs, and is read back", () => {
    const was = scenario(20);
    const is = { ...scenario(21.25), total_s: 7200 };
    is.sky.moon = { phase_angle_deg: 60, altitude_deg: 35, separation_deg: 80 };
    const params = new URLSearchParams("q=oiii&goal=9");
    sceneToParams(was, is, params);
    expect(params.toString()).toBe("q=oiii&sky=21.25&hours=2&moon=60_35_80");
    expect(applyParams(was, params)).toEqual(is);
    sceneToParams(was, was, params);
    expect(params.toString()).toBe("q=oiii");
  });
  it("leaves a scenario alone where the address says nothing or nonsense", () => {
    const was = scenario(20);
    expect(applyParams(was, new URLSearchParams("q=ha"))).toBe(was);
    expect(applyParams(was, new URLSearchParams("sky=dark&moon=full"))).toEqual(was);
  });
});
