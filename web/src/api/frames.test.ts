import { afterEach, beforeAll, describe, expect, it, vi } from "vitest";
import { ProblemError } from "./client";
import { bytes, unpack } from "./frames";

beforeAll(() => {
  // Node has no ImageData: what is kept of it is the pixels and the size.
  vi.stubGlobal(
    "ImageData",
    class {
      constructor(
        readonly data: Uint8ClampedArray,
        readonly width: number,
        readonly height: number,
      ) {
        if (data.length !== width * height * 4) throw new Error("four bytes a pixel");
      }
    },
  );
});

describe("packed pictures", () => {
  it("come apart in order, each with its own size", () => {
    const buffer = new ArrayBuffer(4 + 16 + 2 * 1 * 4 + 1 * 2 * 4);
    const view = new DataView(buffer);
    [2, 2, 1, 1, 2].forEach((n, i) => {
      view.setUint32(i * 4, n, true);
    });
    new Uint8Array(buffer, 20).set([1, 2, 3, 255, 4, 5, 6, 255, 7, 8, 9, 255, 10, 11, 12, 255]);
    const [a, b] = unpack(buffer);
    expect([a?.width, a?.height, b?.width, b?.height]).toEqual([2, 1, 1, 2]);
    expect([...(a?.image.data ?? [])]).toEqual([1, 2, 3, 255, 4, 5, 6, 255]);
    expect([...(b?.image.data ?? [])]).toEqual([7, 8, 9, 255, 10, 11, 12, 255]);
  });
  it("may be none", () => {
    expect(unpack(new ArrayBuffer(4))).toEqual([]);
  });
});

describe("asking for bytes", () => {
  afterEach(() => vi.unstubAllGlobals());
  const answers = (response: Response) => vi.stubGlobal("fetch", vi.fn().mockResolvedValue(response));
  it("gives them as they come", async () => {
    answers(new Response(new Uint8Array([1, 2, 3])));
    expect(new Uint8Array(await bytes("/x"))).toEqual(new Uint8Array([1, 2, 3]));
    expect(fetch).toHaveBeenCalledWith("/x", { method: "GET" });
  });
  it("throws the server's own problem", async () => {
    const problem = {
      type: "t",
      title: "Not accepted",
      status: 422,
      detail: "d",
      errors: [{ path: "view.seed", message: "m" }],
    };
    answers(new Response(JSON.stringify(problem), { status: 422 }));
    const thrown = await bytes("/x", { a: 1 }).catch((e) => e);
    expect(thrown).toBeInstanceOf(ProblemError);
    expect((thrown as ProblemError).problem.errors[0]?.path).toBe("view.seed");
  });
  it("makes a problem of an answer that is none", async () => {
    answers(new Response("<html>", { status: 502 }));
    const thrown = (await bytes("/x").catch((e) => e)) as ProblemError;
    expect(thrown.problem.status).toBe(502);
    expect(thrown.problem.detail).toContain("502");
  });
});
