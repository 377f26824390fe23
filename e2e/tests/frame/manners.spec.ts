import { test as plain } from "@playwright/test";
import { axe, copyOf, expect, number, test } from "../fixtures";

const ANY_API = "**/api/v1/**";

test("letters choose in an open list, and single keys can be switched off", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  const help = page.getByRole("dialog", { name: "Keyboard" });
  // In an open list a key belongs to the list.
  await page.getByTestId("lamps").click();
  await expect(page.getByRole("listbox")).toBeVisible();
  await page.keyboard.press("?");
  await page.keyboard.press("g");
  await page.keyboard.press("k");
  await expect(page.getByRole("listbox")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("listbox")).toBeHidden();
  await expect(help).toBeHidden();
  await expect(page).toHaveURL(new RegExp(`/bench/${id}`));
  // The palette offers what holds the words, and nothing that only holds their letters.
  await page.keyboard.press("Control+k");
  await page.getByRole("combobox", { name: "Commands" }).fill("theme");
  await expect(page.getByRole("option")).toHaveCount(3);
  await page.getByRole("combobox", { name: "Commands" }).fill("tm");
  await expect(page.getByRole("option")).toHaveCount(0);
  await page.keyboard.press("Escape");
  // Switched off, and still so after a reload.
  await page.locator("main").focus();
  await page.keyboard.press("?");
  await help.getByRole("checkbox").uncheck();
  await axe(page);
  await page.keyboard.press("Escape");
  await page.reload();
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  await page.locator("main").focus();
  await page.keyboard.press("g");
  await page.keyboard.press("k");
  await page.keyboard.press("?");
  await expect(help).toBeHidden();
  await expect(page).toHaveURL(new RegExp(`/bench/${id}`));
  await page.getByRole("button", { name: /^Keys/ }).click();
  await help.getByRole("checkbox").check();
  await page.keyboard.press("Escape");
  await page.locator("main").focus();
  await page.keyboard.press("g");
  await page.keyboard.press("k");
  await expect(page).toHaveURL(/\/kit/);
});

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

test("a file that is no scenario is told so, and one with a wrong field by its name", async ({ strict: page }) => {
  await page.goto("/bench");
  const rows = page.getByTestId("card-words");
  await expect(rows.first()).toBeVisible();
  const count = await rows.count();
  const file = page.getByLabel("Scenario file");
  await file.setInputFiles({ name: "moon.png", mimeType: "image/png", buffer: Buffer.from([0x89, 0x50, 0x4e, 0x47]) });
  await expect(page.getByText(/moon\.png is not JSON.*A scenario document is accepted/)).toBeVisible();
  await file.setInputFiles({ name: "list.json", mimeType: "application/json", buffer: Buffer.from("[1, 2]") });
  await expect(page.getByText(/invalid|expected/i).last()).toBeVisible();
  const demo = (await (await page.request.get("/api/v1/scenarios/larch-lane-ic-443")).json()).scenario;
  demo.contenders[1].optics.aperture_mm = -3;
  await file.setInputFiles({
    name: "wrong.json",
    mimeType: "application/json",
    buffer: Buffer.from(JSON.stringify(demo)),
  });
  await expect(page.getByText(/path B, optics, aperture: -3 is not accepted; give 5 to 20000 mm/)).toBeVisible();
  expect(await rows.count()).toBe(count);
  await axe(page);
});

plain("a slow server: the figures stay in sight while it works, and nothing jumps", async ({ page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  const before = number(await page.getByTestId("snr-A").textContent());
  let answer = () => {};
  const held = new Promise<void>((r) => {
    answer = r;
  });
  await page.route("**/api/v1/bench", async (route) => {
    await held;
    await route.continue();
  });
  const top = () => page.getByTestId("path-C").evaluate((e) => e.getBoundingClientRect().top);
  const at = await top();
  await page.getByTestId("sky").getByRole("slider").focus();
  const asked = page.waitForRequest("**/api/v1/bench");
  for (let i = 0; i < 10; i++) await page.keyboard.press("ArrowRight");
  await asked;
  expect(number(await page.getByTestId("snr-A").textContent())).toBe(before);
  expect(await top()).toBe(at);
  answer();
  await expect
    .poll(async () => number(await page.getByTestId("snr-A").textContent()), { timeout: 15_000 })
    .not.toBe(before);
  expect(await top()).toBe(at);
});
