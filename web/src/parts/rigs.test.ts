import { describe, expect, it } from "vitest";
import type { Library } from "@/api/client";
import { keyOf, rigsOf } from "./rigs";

const library = {
  optics: [{ id: "small", name: "a small one", optics: { focal_length_mm: 300 } }],
  cameras: [{ id: "mono", sensor: { name: "a camera" } }],
} as unknown as Library;

describe("rigs in the address", () => {
  it("come back as they were, with any name", () => {
    const rig = { name: "mine, 80 mm ~ old", focal_length_mm: 480, pixel_um: 3.76, columns: 6248, rows: 4176 };
    expect(rigsOf([keyOf(rig)], library)).toEqual([{ key: keyOf(rig), name: rig.name, ask: { field: rig } }]);
    expect(keyOf(rig)).not.toContain(",");
  });
  it("are those of the shelf, and what is unknown or broken falls out", () => {
    const found = rigsOf(["small~mono", "gone~mono", "=1~2", "=0~1~2~3~x"], library);
    expect(found.map((r) => r.name)).toEqual(["a small one, a camera"]);
  });
});
