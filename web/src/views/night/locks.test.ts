import { describe, expect, it } from "vitest";
import { leftBy, moved, NO_LOCKS, readLocks, writeLocks } from "./locks";

const lock = (exposure: number, from_s: number, to_s: number) => ({ exposure, from_s, to_s });
const some = [
  [lock(0, 1_801_234_500, 1_801_238_100), lock(2, 1_801_240_000, 1_801_243_600)],
  [],
  [lock(1, 1_801_250_000, 1_801_251_800)],
];

describe("blocks that stay", () => {
  it("come back from the address of their own night", () => {
    const text = writeLocks("2027-01-28 a 0 larch-lane", some);
    expect(readLocks("2027-01-28 a 0 larch-lane", text)).toEqual(some);
    expect(text).toMatch(/^[\w.~]+$/);
    expect(writeLocks("x", NO_LOCKS)).toBeNull();
  });
  it("are none on another night, and none where the address is spoilt", () => {
    expect(readLocks("2027-01-29 a 0 larch-lane", writeLocks("2027-01-28 a 0 larch-lane", some))).toEqual(NO_LOCKS);
    const spoilt = `${writeLocks("x", some)?.split("_")[0]}_0.1.x~a~1.2.-5~~_`;
    expect(readLocks("x", spoilt)).toEqual(NO_LOCKS);
    expect(readLocks("x", null)).toEqual(NO_LOCKS);
  });
  it("go with the target that is taken out of the night", () => {
    expect(leftBy(some, 1)).toEqual([some[0], some[2]]);
  });
  it("move without leaving a copy behind", () => {
    const block = lock(0, 1_801_234_500, 1_801_238_100);
    const once = moved(NO_LOCKS, 1, block, lock(0, 1_801_234_800, 1_801_238_400));
    const twice = moved(once, 1, once[1]?.[0] ?? block, lock(0, 1_801_235_100, 1_801_238_700));
    expect(twice).toEqual([[], [lock(0, 1_801_235_100, 1_801_238_700)]]);
  });
});
