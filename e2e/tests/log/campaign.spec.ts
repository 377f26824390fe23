import { axe, expect, test } from "../fixtures";

test("a played night fills a campaign, is counted anew when a frame is overruled, and is taken back", async ({
  strict: page,
}) => {
  await page.goto("/log");
  await expect(page.getByTestId("night-totals")).toBeVisible({ timeout: 120_000 });
  await expect(page.getByTestId("log-reading")).toHaveCount(0, { timeout: 120_000 });
  await expect(page.getByText("No campaign is of NGC 2403.")).toBeVisible();
  // Begun as the campaign's page begins one.
  const { scenario } = await (await page.request.get("/api/v1/scenarios/heron-lake-ngc-2403")).json();
  const made = await page.request.post("/api/v1/campaigns/begin", {
    data: { scenario, contender: 2, site: "heron-lake" },
  });
  expect(made.status()).toBe(201);
  const { id } = await made.json();
  await page.reload();
  const offer = page.getByTestId("night-campaign");
  await expect(offer).toContainText(/Luminance: \d+ of 36 kept/);
  await expect(offer.getByTestId("night-calibration")).toContainText("Darks of 120 s at -10 °C: 4 of the 50");
  await expect(offer.getByTestId("night-brought")).toContainText(
    /exposed brought what .+ of the planned sky would, \d+ %/,
  );
  await offer.getByRole("button", { name: "Count it" }).click();
  await expect(offer).toContainText("Counted as it is kept now");
  const counted = async () => {
    const { campaign } = await (await page.request.get(`/api/v1/campaigns/${id}`)).json();
    return campaign.nights.map((n: { shots: { subs: number }[] }) => n.shots[0]?.subs);
  };
  const before = await counted();
  expect(before).toHaveLength(1);
  // A frame that cloud took is kept after all: the campaign has one too few.
  await page.getByTestId("frame-table").locator("tbody tr", { hasText: "luminance-0033" }).getByRole("button").click();
  await page.getByTestId("overrule").click();
  await expect(offer).toContainText("other figures for this night");
  await offer.getByRole("button", { name: "Count it again" }).click();
  await expect(offer).toContainText("Counted as it is kept now");
  expect(await counted()).toEqual([before[0] + 1]);
  await axe(page);
  // Undone: the figures of before.
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect.poll(counted).toEqual(before);
  await expect(offer).toContainText("other figures for this night");
  // Left to the rules again, the night is what the campaign has.
  await page.getByRole("button", { name: "Leave it to the rules" }).click();
  await expect(offer).toContainText("Counted as it is kept now");
  // The campaign's own page shows the night.
  await offer.getByRole("link").click();
  await expect(page.getByTestId("nights")).toContainText("2026-11-19");
  await page.request.delete(`/api/v1/campaigns/${id}`);
});

test("what was taken of a target is copied, and saved as a table", async ({ strict: page, context }) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await page.goto("/log");
  await expect(page.getByTestId("night-totals")).toBeVisible({ timeout: 120_000 });
  await page.getByRole("button", { name: "Record of NGC 2403" }).first().click();
  const record = page.getByTestId("record");
  await expect(record).toContainText(/^NGC 2403: .+ in all/);
  await expect(record).toContainText(/Luminance: \d+ of 36 × 120 s \(gain .+moon \d+ % lit/);
  await page.getByRole("button", { name: "Copy", exact: true }).click();
  await expect(page.getByText("The record is copied.")).toBeVisible();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toContain("NGC 2403: ");
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "CSV" }).last().click();
  expect((await download).suggestedFilename()).toBe("NGC 2403.csv");
  await axe(page);
});

test("headers are corrected for the whole night and taken back, and a guider's table is read", async ({
  strict: page,
}) => {
  await page.goto("/log");
  await expect(page.getByTestId("night-totals")).toBeVisible({ timeout: 120_000 });
  await expect(page.getByTestId("log-reading")).toHaveCount(0, { timeout: 120_000 });
  const record = page.getByRole("button", { name: /^Record of/ }).first();
  await expect(record).toHaveText("Record of NGC 2403");
  await page.getByRole("button", { name: "Headers" }).click();
  await page.getByLabel("Focal length instead").fill("long");
  await page.getByRole("button", { name: "Use for the night" }).click();
  await expect(page.getByRole("alert")).toHaveText("Focal length: give a number.");
  await page.getByLabel("Focal length instead").fill("");
  await page.getByLabel("Object instead").fill("Caldwell 7");
  await axe(page);
  await page.keyboard.press("Enter");
  await expect(record).toHaveText("Record of Caldwell 7");
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(record).toHaveText("Record of NGC 2403");
  const guiding = page.getByLabel("A guider's table: CSV with at_utc and error_arcsec");
  await guiding.setInputFiles({ name: "guide.csv", mimeType: "text/csv", buffer: Buffer.from("a,b\n1,2\n") });
  await expect(page.getByText(/give a table with the columns at_utc/)).toBeVisible();
  await guiding.setInputFiles({
    name: "guide.csv",
    mimeType: "text/csv",
    buffer: Buffer.from("at_utc,error_arcsec\n2026-11-20T06:00:10Z,0.5\n2026-11-20T06:30:10Z,0.6\n"),
  });
  await expect(page.getByText(/2 errors of the guider fell into \d frames/)).toBeVisible();
  await expect(page.getByRole("img", { name: /^Guiding of 2 frames/ })).toBeVisible();
});
