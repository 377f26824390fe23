import { axe, expect, test } from "../fixtures";

type Entry = { thing: { item: { zenith_v_mag: number } } };

test("a played night teaches how bright the sky really was: taken over, told what it means, taken back", async ({
  strict: page,
}) => {
  const zenith = async () => {
    const shelf = (await (await page.request.get("/api/v1/shelf")).json()) as { id: string; entry: Entry }[];
    return shelf.find((e) => e.id === "heron-lake")?.entry.thing.item.zenith_v_mag ?? Number.NaN;
  };
  await page.goto("/log");
  await expect(page.getByTestId("night-totals")).toBeVisible({ timeout: 120_000 });
  await expect(page.getByTestId("log-reading")).toHaveCount(0, { timeout: 120_000 });
  const taught = page.getByTestId("night-taught");
  const offer = taught.getByTestId("offer-zenith");
  await expect(offer).toContainText(/Sky at the zenith.+→.+± 0\.1\d+ V mag\/arcsec²/);
  await expect(offer).toContainText("brighter than the site says");
  await expect(offer).toContainText(/Luminance: .+ the time for the same\./);
  // Nothing else of the night is off.
  await expect(taught.getByRole("button", { name: /^Take over/ })).toHaveCount(1);
  await expect(taught.getByRole("img", { name: /^Predicted against measured/ })).toBeVisible();
  await taught.getByRole("button", { name: "Table" }).click();
  await expect(taught.getByRole("row")).toHaveCount(73);
  await taught.getByRole("button", { name: "Chart" }).click();
  await axe(page);

  const before = await zenith();
  await offer.getByRole("button", { name: "Take over: Sky at the zenith" }).click();
  const taken = taught.getByTestId("lesson-zenith").first();
  await expect(taken).toContainText("taken over");
  // What is believed now is what came: nothing is left to offer.
  await expect(offer).toHaveCount(0);
  await expect(taught).toContainText("The sky came out as the site says");
  const after = await zenith();
  expect(before - after).toBeGreaterThan(0.25);
  expect(before - after).toBeLessThan(0.4);
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(taken).toContainText("taken back");
  await expect(offer).toBeVisible();
  expect(await zenith()).toBe(before);
});

test("a patch and a background are placed by pointer and by keyboard; wide filters hold no line", async ({ page }) => {
  await page.goto("/log");
  await expect(page.getByTestId("night-totals")).toBeVisible({ timeout: 120_000 });
  await page.getByRole("button", { name: "Measure lines" }).click();
  const marking = page.getByTestId("marking");
  await marking.click({ position: { x: 300, y: 200 } });
  const left = async (which: string) => (await page.getByTestId(`box-${which}`).boundingBox())?.x ?? 0;
  const before = await left("patch");
  await marking.press("Shift+ArrowRight");
  await expect.poll(() => left("patch")).toBeGreaterThan(before + 10);
  const sky = await left("background");
  await page.getByRole("radio", { name: "Sky beside it" }).click();
  await marking.press("ArrowRight");
  await expect.poll(() => left("background")).toBeGreaterThan(sky);
  await axe(page);
  await page.getByRole("button", { name: "Measure", exact: true }).click();
  await expect(page.getByText(/no filter of these frames records a line/)).toBeVisible();
});
