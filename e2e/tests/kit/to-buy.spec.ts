import { axe, expect, test } from "../fixtures";

test("a city owner asks what to buy next", async ({ strict: page }) => {
  await page.goto("/kit");
  await page.getByRole("link", { name: "What to buy next" }).click();
  await expect(page).toHaveURL(/kit\/to-buy/);
  await expect(page.getByTestId("buy-first")).toContainText(/next, for \d+: it (saves|gives) \d+ h a year/);
  await expect(page.getByTestId("buy-set")).toContainText("10 % of the best");
  const saved = async () => {
    const cell = page.getByTestId("buy-next").locator("tbody tr").first().locator("td.text-decide").first();
    return Number(/(\d+) h/.exec((await cell.textContent()) ?? "")?.[1]);
  };
  await expect(page.getByTestId("buy-next").locator("tbody tr").first()).toBeVisible();
  await axe(page);
  // The colour rig, from the town's edge alone, for remnants alone.
  await page.getByTestId("buy-rig").click();
  await page.getByRole("option", { name: "Reflector, colour" }).click();
  await expect(page).toHaveURL(/rig=reflector-colour/);
  const off = async (name: string) => {
    const box = page.getByRole("checkbox", { name, exact: true });
    await box.click();
    await expect(box).not.toBeChecked();
  };
  await off("Heron Lake");
  for (const kind of ["H II region", "Planetary nebula", "Galaxy", "Reflection nebula"]) await off(kind);
  await expect(page.getByTestId("buy-pictures").locator("tbody tr")).toHaveCount(1);
  await page.getByTestId("nights-larch-lane").fill("20");
  await expect(page).toHaveURL(/larch-lane\.20/);
  const few = await saved();
  await page.getByTestId("nights-larch-lane").fill("60");
  await expect(page).toHaveURL(/larch-lane\.60/);
  expect(few).toBeGreaterThan(0);
  await expect.poll(saved).toBeGreaterThan(few);
  // The address says it all: a reload asks the same.
  const first = await page.getByTestId("buy-first").textContent();
  await page.reload();
  await expect(page.getByTestId("buy-first")).toHaveText(first ?? "");
});
