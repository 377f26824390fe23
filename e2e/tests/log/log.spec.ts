import { axe, expect, settled, test } from "../fixtures";

test("the demo's night came in: judged, blinked, overruled and taken back, by keyboard too", async ({
  strict: page,
}) => {
  await page.goto("/log");
  // It is played at the demo's first start; a slow machine takes a while.
  await expect(
    page
      .getByTestId("nights")
      .getByRole("button", { name: /NGC 2403/ })
      .first(),
  ).toBeVisible({
    timeout: 120_000,
  });
  await expect(page.getByTestId("log-reading")).toHaveCount(0, { timeout: 120_000 });
  const table = page.getByTestId("frame-table");
  await expect(table.locator("tbody tr")).toHaveCount(72, { timeout: 120_000 });
  await expect(page.getByTestId("night-totals")).toContainText(/Luminance: \d+ of 36 × 120 s kept/);
  // Thin cloud was found, and the focus.
  const cloudy = table.locator("tbody tr", { hasText: "luminance-0033" });
  await expect(cloudy).toContainText("no");
  await cloudy.getByRole("button").focus();
  await page.keyboard.press("Enter");
  const words = page.getByTestId("frame-words");
  await expect(words).toContainText(/Cloud: 5\d % of the starlight/);
  const picture = page.getByTestId("frame-picture");
  await expect.poll(() => picture.evaluate((i: HTMLImageElement) => i.naturalWidth)).toBeGreaterThan(100);
  // Blink shows its neighbour, and comes back.
  const own = await picture.getAttribute("src");
  await page.getByRole("button", { name: "Blink with its neighbour" }).click();
  await expect(picture).not.toHaveAttribute("src", own ?? "");
  await page.getByRole("button", { name: "Stop blinking" }).click();
  await expect(picture).toHaveAttribute("src", own ?? "");
  // Overruled, and back by the key.
  await page.getByTestId("overrule").click();
  await expect(cloudy).toContainText("yes, by you");
  await expect(words).toContainText("Kept by you.");
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(cloudy).toContainText(/no$/);
  await axe(page);
});

test("a dropped frame is refused by name, and what happened is written down and struck out", async ({
  strict: page,
}) => {
  await page.goto("/log");
  await expect(page.getByTestId("night-totals")).toBeVisible({ timeout: 120_000 });
  await page
    .getByLabel("A frame for the log")
    .setInputFiles({ name: "holiday.fits", mimeType: "image/fits", buffer: Buffer.from("SIMPLE  = no") });
  await expect(page.getByText(/holiday\.fits/)).toBeVisible();
  await page.getByRole("button", { name: "Something happened" }).click();
  await page.getByLabel("Time, UTC").fill("half past");
  await expect(page.getByText("Give hours and minutes, such as 21:30.")).toBeVisible();
  await page.getByLabel("Time, UTC").fill("7:10");
  await page.getByLabel("In words").fill("a deer at the tripod");
  await page.keyboard.press("Enter");
  const events = page.getByTestId("night-events");
  await expect(events).toContainText("07:10 Focus set: a deer at the tripod");
  await events.getByRole("button", { name: /^Take out/ }).click();
  await expect(events).not.toContainText("deer");
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(events).toContainText("deer");
  await settled(page);
  await events.getByRole("button", { name: /^Take out/ }).click();
  await expect(events).not.toContainText("deer");
  await page.getByLabel("Find nights").fill("qqqq");
  await expect(page.getByTestId("log-empty")).toHaveText("No night holds these letters.");
});
