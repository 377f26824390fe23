import { axe, expect, test } from "../fixtures";

/** Ten to nine UTC in the demo's played night. */
const AT_S = 1_795_164_600;

test("by the telescope: the last frame, what comes next, the rest of the night planned anew, and taken back", async ({
  strict: page,
}) => {
  await page.goto("/log");
  await expect(page.getByTestId("log-reading")).toHaveCount(0, { timeout: 120_000 });
  await page.goto(`/now?campaign=ic-443-winter&at=${AT_S}`);
  await expect(page.getByTestId("now-told")).toBeVisible();
  await expect(page.getByRole("img", { name: /\.fits, small$/ })).toBeVisible();
  await expect(page.getByTestId("now-seen")).toContainText(/sky meter \d\d\.\d\d mag\/arcsec² · cloud \d+ %/);
  // It is night there: the page is red, and is what it was before when it is left.
  await expect(page.locator("html")).toHaveAttribute("data-theme", "ember");
  await page.getByRole("button", { name: "Ember by night" }).click();
  await expect(page.locator("html")).not.toHaveAttribute("data-theme", "ember");
  await expect(page.getByText("Tonight is not planned.")).toBeVisible();
  await axe(page);
  await page.getByRole("button", { name: "Re-plan from now" }).click();
  await expect(page.getByTestId("countdown")).toHaveText(/^(now|in (\d+ h )?\d+.*)$/);
  await expect(page.getByTestId("next-act")).toHaveText(/begin with|change to|refocus|flip|moon|the plan ends/);
  await expect(page.getByText("Tonight is not planned.")).toHaveCount(0);
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(page.getByText("Tonight is not planned.")).toBeVisible();
});

test("an open page keeps what it last knew, with its age, when the link is gone", async ({ page }) => {
  await page.goto("/now");
  await expect(page.getByTestId("now")).toBeVisible();
  await page.route("**/api/v1/now*", (route) => route.abort());
  await page.evaluate(() => window.dispatchEvent(new Event("focus")));
  // Asked again by itself.
  await expect(page.getByTestId("gone")).toContainText("The link is gone", { timeout: 60_000 });
  await expect(page.getByRole("heading", { name: /^Now/ })).toBeVisible();
  // Loaded anew without a link it still knows.
  await page.reload();
  await expect(page.getByTestId("gone")).toBeVisible();
});

test("fingers find its buttons, and a countdown runs", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 780 });
  await page.goto(`/now?at=${AT_S}`);
  for (const name of ["Ember by night", "Sound", "Re-plan from now"]) {
    const box = await page.getByRole("button", { name }).boundingBox();
    expect(box?.height, name).toBeGreaterThanOrEqual(44);
  }
  const wide = await page.evaluate(() => document.documentElement.scrollWidth);
  expect(wide).toBeLessThanOrEqual(390);
  await expect(page.getByRole("link", { name: "Now" })).toBeVisible();
});
