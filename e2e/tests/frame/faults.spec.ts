import { readFile } from "node:fs/promises";
import { createRequire } from "node:module";
import { type Page, test as plain } from "@playwright/test";
import { initWasm, Resvg } from "@resvg/resvg-wasm";
import { axe, copyOf, expect, number, test } from "../fixtures";

const BENCH = "/bench/larch-lane-ic-443";
const WITH_MOON = "moon=60_35_60";
/** Every chart that saves itself: where it stands, and its title. */
const CHARTS: [string, string][] = [
  [`${BENCH}?row=1&chart=time`, "Clean detail against clock time"],
  [`${BENCH}?row=1&chart=sub`, "Length of a sub, path B"],
  [`${BENCH}?row=0&chart=gain`, "Gain ladder, path A"],
  [`${BENCH}?row=1&chart=spectrum&${WITH_MOON}`, "Spectrum of path B"],
  [`${BENCH}?row=1&chart=bandwidth`, "Bandwidth"],
  [`${BENCH}?row=1&chart=look&${WITH_MOON}`, "Slope of the sky"],
  [`${BENCH}?row=0&chart=worth`, "Worth"],
  ["/targets?object=IC+443", "When it is up in the dark"],
  ["/kit?kind=filter&id=uhc&compare=dual-7,uhc", "Filters compared"],
  ["/night?campaign=ic-443-winter&date=2027-01-28", "The night"],
];

async function savedSvg(page: Page, title: string): Promise<string> {
  const button = page.getByRole("button", { name: new RegExp(`^Save "${title}.*" as SVG$`) }).first();
  await expect(page.locator("section", { has: button }).locator("svg[role], svg[aria-label]").first()).toBeVisible();
  // What the chart shows has come by then.
  await page.waitForLoadState("networkidle");
  const [download] = await Promise.all([page.waitForEvent("download"), button.click()]);
  return readFile(await download.path(), "utf8");
}

let ready = false;
/** Drawn by a general library, without fonts: how many pixels differ from the ground. */
async function painted(svg: string): Promise<number> {
  if (!ready) await initWasm(readFile(createRequire(import.meta.url).resolve("@resvg/resvg-wasm/index_bg.wasm")));
  ready = true;
  const { pixels } = new Resvg(svg).render();
  let others = 0;
  for (let i = 0; i < pixels.length; i += 4)
    if (pixels[i] !== pixels[0] || pixels[i + 1] !== pixels[1] || pixels[i + 2] !== pixels[2]) others += 1;
  return others;
}

for (const [address, title] of CHARTS)
  test(`the chart "${title}" saves as well-formed SVG that another program draws`, async ({ strict: page }) => {
    await page.goto(address);
    const svg = await savedSvg(page, title);
    const read = await page.evaluate((text) => {
      const root = new DOMParser().parseFromString(text, "image/svg+xml");
      const wrong = root.querySelector("parsererror")?.textContent ?? null;
      return { wrong, name: root.documentElement.localName, viewBox: root.documentElement.getAttribute("viewBox") };
    }, svg);
    expect(read.wrong, svg.slice(0, 400)).toBeNull();
    expect(read.name).toBe("svg");
    expect(read.viewBox).toMatch(/^0 0 \d+ \d+$/);
    expect(svg).not.toContain("var(");
    expect(svg).not.toMatch(/ (class|style|data-\w+)=/);
    expect(await painted(svg)).toBeGreaterThan(500);
  });

// Pages that are given bad answers tell so on the console: they are not strict.
plain(
  "an answer that is none of the kind keeps its fault within the view, and trying again mends it",
  async ({ page }) => {
    await page.route("**/api/v1/bench", (route) => route.fulfill({ json: {} }));
    await page.goto(BENCH);
    await expect(page.getByRole("heading", { name: /something that it was not made for/ })).toBeVisible();
    await expect(page.getByRole("navigation", { name: "Views" })).toBeVisible();
    await axe(page);
    await page.unroute("**/api/v1/bench");
    await page.getByRole("button", { name: "Try again" }).click();
    await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  },
);

plain("a chart that fails leaves the bench standing", async ({ page }) => {
  await page.route("**/api/v1/charts/spectrum**", (route) => route.fulfill({ json: { nm: 5 } }));
  await page.goto(`${BENCH}?chart=spectrum`);
  await expect(page.getByRole("alert")).toContainText("cannot be shown");
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  await page.getByRole("tab", { name: "Time" }).click();
  await expect(page.getByRole("alert")).toHaveCount(0);
});

test("a draft of another version is put aside and offered, and blanks nothing", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  const old = { revision: 1, draft: { title: "Mine", contenders: "many", sky: 19 } };
  await page.goto("/bench");
  await page.evaluate(
    ([key, text]) => localStorage.setItem(key ?? "", text ?? ""),
    [`salt-lamp.draft.${id}`, JSON.stringify(old)],
  );
  for (let visit = 0; visit < 2; visit++) {
    await page.goto(`/bench/${id}`);
    await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
    await expect(page.getByText("no longer fits this version")).toBeVisible();
  }
  await axe(page);
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "Save it as a file" }).click(),
  ]);
  expect(JSON.parse(await readFile(await download.path(), "utf8"))).toEqual(old);
  await page.getByRole("button", { name: "Discard it" }).click();
  await page.reload();
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  await expect(page.getByText("no longer fits this version")).toHaveCount(0);
});

plain("a lost network on the bench is said, and asked again without a touch", async ({ page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  const before = number(await page.getByTestId("snr-A").textContent());
  await page.route("**/api/v1/bench", (route) => route.abort());
  await page.getByTestId("sky").getByRole("slider").focus();
  for (let i = 0; i < 8; i++) await page.keyboard.press("ArrowRight");
  await expect(page.getByText(/It is asked again in \d+ s/)).toBeVisible();
  await page.unroute("**/api/v1/bench");
  await expect.poll(async () => number(await page.getByTestId("snr-A").textContent())).not.toBe(before);
  await expect(page.getByText(/It is asked again/)).toHaveCount(0);
});

plain("a busy server is said calmly, and asked again when it says so", async ({ page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  const before = number(await page.getByTestId("snr-A").textContent());
  const busy = { type: "urn:salt-lamp:problem:busy", title: "Busy", status: 429, detail: "Busy.", retry_after_s: 1 };
  await page.route("**/api/v1/bench", (route) => route.fulfill({ status: 429, json: { ...busy, errors: [] } }));
  await page.getByTestId("sky").getByRole("slider").focus();
  for (let i = 0; i < 8; i++) await page.keyboard.press("ArrowRight");
  await expect(page.getByText(/The server is busy.*asked again in 1 s/)).toBeVisible();
  await expect(page.getByRole("alert")).toHaveCount(0);
  await page.unroute("**/api/v1/bench");
  await expect.poll(async () => number(await page.getByTestId("snr-A").textContent())).not.toBe(before);
  await expect(page.getByText(/The server is busy/)).toHaveCount(0);
});

plain("a full disk shows in the foot line", async ({ page }) => {
  const troubles = ["The disk is full: nothing can be stored until there is room."];
  const health = { status: "trouble", version: "0", troubles };
  await page.route("**/api/v1/health", (route) => route.fulfill({ json: health }));
  await page.goto("/about");
  await expect(page.getByTestId("troubles")).toHaveText(troubles[0] ?? "");
});

plain("a look whose answers break off, or are no pictures, goes on when they come back", async ({ page }) => {
  await page.goto(`${BENCH}?chart=look`);
  await expect(page.getByTestId("crop-A")).toBeVisible();
  for (const broken of [
    (route: import("@playwright/test").Route) => route.abort(),
    (route: import("@playwright/test").Route) => route.fulfill({ body: Buffer.from([9, 0, 0, 0, 1]) }),
    (route: import("@playwright/test").Route) => route.fulfill({ status: 502, body: "<html>bad gateway</html>" }),
  ]) {
    await page.route("**/api/v1/look/frames", broken);
    await page.getByRole("button", { name: "No noise" }).click();
    await expect(page.getByRole("region", { name: "Look" }).getByRole("alert")).toContainText(/asked again/);
    await page.unroute("**/api/v1/look/frames");
    await expect(page.getByRole("region", { name: "Look" }).getByRole("alert")).toHaveCount(0);
  }
});
