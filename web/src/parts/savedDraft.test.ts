import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { discardUnfit, saveDraft, savedDraft, unfit } from "./savedDraft";
import { afterStored } from "./useSavedDraft";

describe("what is typed and not saved", () => {
  const store = new Map<string, string>();
  beforeEach(() =>
    vi.stubGlobal("localStorage", {
      getItem: (k: string) => store.get(k) ?? null,
      setItem: (k: string, v: string) => void store.set(k, v),
      removeItem: (k: string) => void store.delete(k),
    }),
  );
  afterEach(() => {
    vi.unstubAllGlobals();
    store.clear();
  });
  it("is there again under its own name only", () => {
    saveDraft("shelf.dual-7", { revision: 3, draft: { name: "Mine" } });
    expect(savedDraft("shelf.dual-7", { name: "" })).toEqual({ revision: 3, draft: { name: "Mine" } });
    expect(savedDraft("shelf.dual-12", { name: "" })).toBeNull();
    saveDraft("shelf.dual-7", null);
    expect(savedDraft("shelf.dual-7", { name: "" })).toBeNull();
  });
  it("is put aside, not used and not lost, where its shape is another", () => {
    const old = JSON.stringify({ revision: 3, draft: { name: ["Mine"] } });
    store.set("salt-lamp.draft.b", old);
    expect(savedDraft("b", { name: "Stored" })).toBeNull();
    expect(unfit("b")).toBe(old);
    expect(savedDraft("b", { name: "Stored" })).toBeNull();
    discardUnfit("b");
    expect(unfit("b")).toBeNull();
    for (const broken of ["null", "7", "[1]", '{"draft": {"name": "x"}}']) {
      store.set("salt-lamp.draft.c", broken);
      expect(savedDraft("c", { name: "Stored" })).toBeNull();
      expect(unfit("c")).toBe(broken);
    }
  });
  it("is nothing where the storage holds something else, or there is none", () => {
    store.set("salt-lamp.draft.a", "{half");
    expect(savedDraft("a", 0)).toBeNull();
    vi.stubGlobal("localStorage", {
      getItem: () => {
        throw new Error("denied");
      },
      setItem: () => {
        throw new Error("full");
      },
    });
    expect(savedDraft("a", 0)).toBeNull();
    expect(() => saveDraft("a", { revision: 1, draft: 1 })).not.toThrow();
  });
});

describe("a draft when something is stored anew", () => {
  const draft = (name: string, revision = 1) => ({ revision, draft: { name } });
  it("takes it where nothing of its own was typed", () => {
    expect(afterStored(draft("old"), { name: "old" }, { name: "theirs" }, 2)).toEqual(draft("theirs", 2));
  });
  it("moves on to the revision that is its own save", () => {
    expect(afterStored(draft("mine"), { name: "old" }, { name: "mine" }, 2)).toEqual(draft("mine", 2));
  });
  it("stays on what it started from where somebody else saved", () => {
    expect(afterStored(draft("mine"), { name: "old" }, { name: "theirs" }, 2)).toEqual(draft("mine", 1));
  });
});
