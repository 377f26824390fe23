import { test as plain } from "@playwright/test";
import { axe, copyOf, expect, number, test } from "./fixtures";

const ANY_API = "**/api/v1/**";

// A server that is gone is told on the console by the browser itself: these pages are not strict.
plain("the server goes away and comes back: what was typed stays, and is answered and saved then", async ({ page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  const before = number(await page.getByTestId("snr-A").textContent());
  await page.route(ANY_API, (route) => route.abort());
  await page.getByLabel("Title").fill("Typed while it was away");
  const sky = page.getByTestId("sky").getByRole("slider");
  await sky.focus();
  for (let i = 0; i < 6; i++) await page.keyboard.press("ArrowRight");
  await expect(page.getByText("The server does not answer.").first()).toBeVisible();
  expect(number(await page.getByTestId("snr-A").textContent())).toBe(before);
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText(/The server does not answer/).last()).toBeVisible();
  await page.unroute(ANY_API);
  await sky.focus();
  await page.keyboard.press("ArrowRight");
  await expect.poll(async () => number(await page.getByTestId("snr-A").textContent())).not.toBe(before);
  await expect(page.getByLabel("Title")).toHaveValue("Typed while it was away");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByTestId("save-state")).toHaveText("Saved");
});

plain("a shelf that cannot be saved keeps what was typed, over a look elsewhere and a reload", async ({ page }) => {
  await page.goto("/shelf?kind=telescope&id=refractor-70");
  const aperture = page.getByLabel("Aperture");
  await aperture.fill("72");
  await page.route(ANY_API, (route) => (route.request().method() === "PUT" ? route.abort() : route.continue()));
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("alert")).toContainText("The server does not answer");
  await expect(aperture).toHaveValue("72");
  await page.unroute(ANY_API);
  await page.getByRole("button", { name: "120 mm f/7 refractor", exact: true }).click();
  await expect(aperture).toHaveValue("120");
  await expect(page.getByRole("listitem").filter({ hasText: "70 mm f/6 refractor" })).toContainText("unsaved");
  await page.reload();
  await page.getByRole("button", { name: "70 mm f/6 refractor", exact: true }).click();
  await expect(aperture).toHaveValue("72");
  await expect(page.getByText("Unsaved, kept in this browser")).toBeVisible();
  // Discarded, taken back, discarded again.
  await page.getByRole("button", { name: "Discard" }).click();
  await expect(aperture).toHaveValue("70");
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(aperture).toHaveValue("72");
  await page.getByRole("button", { name: "Discard" }).click();
  await page.reload();
  await expect(aperture).toHaveValue("70");
});

test("two tabs on the shelf: the second save is told, and mine becomes a thing of its own", async ({ strict: page, context }) => {
  await page.goto("/shelf?kind=filter&id=quad");
  const other = await context.newPage();
  await other.goto("/shelf?kind=filter&id=quad");
  await other.getByLabel("Effective index").fill("1.95");
  await page.getByLabel("Effective index").fill("2.05");
  await other.getByRole("button", { name: "Save", exact: true }).click();
  await expect(other.getByRole("button", { name: "Save", exact: true })).toBeDisabled();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("dialog")).toContainText("Nothing was overwritten");
  await axe(page);
  await page.getByRole("button", { name: "Save mine as a copy" }).click();
  await expect(page.getByLabel("Name")).toHaveValue(/\(mine\)$/);
  await expect(page.getByLabel("Effective index")).toHaveValue("2.05");
  await page.goto("/shelf?kind=filter&id=quad");
  await expect(page.getByLabel("Effective index")).toHaveValue("1.95");
});

test("what a target emits is remembered before it is kept, and going back to typical is undone", async ({ strict: page }) => {
  await page.goto("/targets?object=NGC+281");
  const ha = page.getByLabel("H-alpha", { exact: true });
  const typical = await ha.inputValue();
  await ha.fill("77");
  await page.goto("/targets?object=NGC+7635");
  await expect(ha).not.toHaveValue("77");
  await page.goto("/targets?object=NGC+281");
  await expect(ha).toHaveValue("77");
  await page.getByRole("button", { name: "Keep for this object" }).click();
  await expect(page.getByText("Your values.")).toBeVisible();
  await page.getByRole("button", { name: "Back to typical" }).click();
  await expect(ha).toHaveValue(typical);
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(ha).toHaveValue("77");
  await page.getByRole("button", { name: "Back to typical" }).click();
  await expect(ha).toHaveValue(typical);
});

test("a file that is no scenario is told so, and one with a wrong field by its name", async ({ strict: page }) => {
  await page.goto("/bench");
  const rows = page.getByRole("main").getByRole("listitem");
  await expect(rows.first()).toBeVisible();
  const count = await rows.count();
  const file = page.getByLabel("Scenario file");
  await file.setInputFiles({ name: "moon.png", mimeType: "image/png", buffer: Buffer.from([0x89, 0x50, 0x4e, 0x47]) });
  await expect(page.getByText(/moon\.png is not JSON.*A scenario document is accepted/)).toBeVisible();
  await file.setInputFiles({ name: "list.json", mimeType: "application/json", buffer: Buffer.from("[1, 2]") });
  await expect(page.getByText(/invalid|expected/i).last()).toBeVisible();
  const demo = (await (await page.request.get("/api/v1/scenarios/larch-lane-ic-443")).json()).scenario;
  demo.contenders[1].optics.aperture_mm = -3;
  await file.setInputFiles({ name: "wrong.json", mimeType: "application/json", buffer: Buffer.from(JSON.stringify(demo)) });
  await expect(page.getByText(/path B, optics, aperture: -3 is not accepted; give 5 to 20000 mm/)).toBeVisible();
  expect(await rows.count()).toBe(count);
  await axe(page);
});

plain("a slow server: the figures stay in sight while it works, and nothing jumps", async ({ page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  const before = number(await page.getByTestId("snr-A").textContent());
  await page.route("**/api/v1/bench", async (route) => {
    await new Promise((r) => setTimeout(r, 1200));
    await route.continue();
  });
  const top = () => page.getByTestId("path-C").evaluate((e) => e.getBoundingClientRect().top);
  const at = await top();
  await page.getByTestId("sky").getByRole("slider").focus();
  for (let i = 0; i < 10; i++) await page.keyboard.press("ArrowRight");
  expect(number(await page.getByTestId("snr-A").textContent())).toBe(before);
  expect(await top()).toBe(at);
  await expect.poll(async () => number(await page.getByTestId("snr-A").textContent()), { timeout: 15_000 }).not.toBe(before);
  expect(await top()).toBe(at);
});
