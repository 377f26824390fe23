import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { touch, touchAgain } from "./touched";

vi.mock("./base", () => ({ BASE: "http://localhost" }));
// The client takes hold of `fetch` as it is made.
const net = vi.hoisted(() => {
  const net = { fetch: async (_: Request) => new Response() };
  globalThis.fetch = (request) => net.fetch(request as Request);
  return net;
});

const kept = new Map<string, string>();

beforeEach(() => {
  kept.clear();
  const storage = {
    setItem: (key: string, value: string) => Object.assign(storage, { [key]: value }) && kept.set(key, value),
    removeItem: (key: string) => Reflect.deleteProperty(storage, key) && kept.delete(key),
  };
  vi.stubGlobal("localStorage", storage);
});
afterEach(() => vi.unstubAllGlobals());

/** A server that answers so, in turn; null is none. */
function server(...answers: (number | null)[]) {
  const asked: string[] = [];
  net.fetch = async (request) => {
    asked.push(`${request.url.split("/").at(-2)}${request.keepalive ? " kept alive" : ""}`);
    const status = answers.shift();
    if (!status) throw new TypeError("aborted");
    return new Response(status === 204 ? null : "{}", { status });
  };
  return asked;
}

test("what was said as the page was left is said again, and no longer once it was heard", async () => {
  const asked = server(null, null, 204, 204);
  await expect(touch("abc")).rejects.toThrow();
  await touchAgain();
  await touchAgain();
  await touchAgain();
  expect(asked).toEqual(["abc kept alive", "abc kept alive", "abc kept alive"]);
});

test("one that is deleted meanwhile is forgotten", async () => {
  const asked = server(404, 204);
  await expect(touch("abc")).rejects.toThrow();
  await touchAgain();
  expect(asked).toHaveLength(1);
});
