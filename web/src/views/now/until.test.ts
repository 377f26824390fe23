import { expect, test } from "vitest";
import { ago, until } from "./until";

test("a countdown runs in minutes and seconds below an hour", () => {
  expect([0.4, 1, 65, 3599, 3600, 4325].map(until)).toEqual([
    "now",
    "0:01",
    "1:05",
    "59:59",
    "1 h 0 min",
    "1 h 12 min",
  ]);
});

test("what was is told by how long ago", () => {
  expect([3, 61, 1500, 5400, 9000].map(ago)).toEqual(["just now", "1 min ago", "25 min ago", "2 h ago", "3 h ago"]);
});
