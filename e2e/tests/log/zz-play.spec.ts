import { expect, test } from "../fixtures";

test("a night is played at a press, and its frames come in while one looks", async ({ page }) => {
  await page.goto("/log");
  const nights = page.getByTestId("nights").getByRole("button");
  await expect(nights.first()).toBeVisible({ timeout: 120_000 });
  const before = await nights.count();
  await page.getByRole("button", { name: "Play a night" }).click();
  await expect(nights).toHaveCount(before + 1, { timeout: 90_000 });
  await nights.first().click();
  const rows = page.getByTestId("frame-table").locator("tbody tr");
  await expect(rows.first()).toBeVisible({ timeout: 60_000 });
  const came = await rows.count();
  // More of them, and nobody pressed anything.
  await expect.poll(() => rows.count(), { timeout: 90_000 }).toBeGreaterThan(came);
  await expect(page.getByTestId("frame-picture")).toBeVisible();
});
