import { describe, expect, it } from "vitest";
import { followName, followWidth } from "./followName";

describe("names follow what they name", () => {
  it("a path that is called by its filter is called by its next one", () => {
    expect(followName("Mono, H-alpha 3 nm", "H-alpha 3 nm", "H-alpha 7 nm")).toBe("Mono, H-alpha 7 nm");
    expect(followName("My winter set", "H-alpha 3 nm", "H-alpha 7 nm")).toBe("My winter set");
    expect(followName("Colour, no filter", "no filter", "Dual band 7 nm")).toBe("Colour, Dual band 7 nm");
  });
  it("a filter is called by its width", () => {
    expect(followWidth("H-alpha 3 nm", 3, 5)).toBe("H-alpha 5 nm");
    expect(followWidth("Dual band 13 nm", 3, 5)).toBe("Dual band 13 nm");
    expect(followWidth("The old one", 3, 5)).toBe("The old one");
    expect(followWidth("H-alpha 6.5 nm", 6.5, 4.25)).toBe("H-alpha 4.25 nm");
  });
});
