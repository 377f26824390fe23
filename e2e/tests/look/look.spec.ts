import type { Page } from "@playwright/test";
import { axe, copyOf, expect, test } from "../fixtures";

/** Mean and spread of the green levels of a crop's middle. */
const statistics = (page: Page, id: string) =>
  page.getByTestId(id).evaluate((c) => {
    const canvas = c as HTMLCanvasElement;
    const { data } = (canvas.getContext("2d") as CanvasRenderingContext2D).getImageData(
      canvas.width / 2 - 60,
      canvas.height / 2 - 60,
      120,
      120,
    );
    const green = Array.from({ length: data.length / 4 }, (_, i) => data[i * 4 + 1] ?? 0);
    // Neighbours differ by noise; structure is smoother than that.
    const steps = green.slice(1).map((v, i) => Math.abs(v - (green[i] ?? 0)));
    return {
      mean: green.reduce((a, b) => a + b, 0) / green.length,
      noise: steps.reduce((a, b) => a + b, 0) / steps.length,
    };
  });

test("the look appears, and time visibly cleans it", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.setViewportSize({ width: 1280, height: 1400 });
  await page.goto(`/bench/${id}?row=1&chart=look`);
  await expect(page.getByTestId("crop-C")).toBeVisible();
  await expect.poll(async () => (await statistics(page, "crop-A")).mean).toBeGreaterThan(10);
  const clean = (await statistics(page, "crop-A")).noise;
  await page.getByTestId("look-time").getByRole("slider").focus();
  await page.keyboard.press("Home");
  await expect(page.getByTestId("look-time-value")).toHaveText("one sub");
  // Its picture comes after its name.
  await expect.poll(async () => (await statistics(page, "crop-A")).noise).toBeGreaterThan(clean / 0.6);
  const rough = (await statistics(page, "crop-A")).noise;
  await page.getByTestId("look-time").getByRole("slider").focus();
  await page.keyboard.press("End");
  await expect(page.getByTestId("look-time-value")).not.toHaveText("one sub");
  await expect.poll(async () => (await statistics(page, "crop-A")).noise).toBeLessThan(rough * 0.6);
  // How it is looked at stands in the address.
  await page.keyboard.press("Home");
  await expect(page).toHaveURL(/look=time_fraction/);
  await page.reload();
  await expect(page.getByTestId("look-time-value")).toHaveText("one sub");
  await expect.poll(async () => (await statistics(page, "crop-A")).noise).toBeGreaterThan(clean / 0.6);
  await expect(page.getByText("Switch the moon on, above")).toBeVisible();
  await axe(page);
  // With a moon the slope of the sky is drawn against its distance, and named in the table twin.
  await page.goto(`/bench/${id}?row=1&chart=look&moon=60_35_60`);
  const slopes = page.getByTestId("slopes");
  await expect(slopes.getByRole("img")).toHaveAttribute(
    "aria-label",
    /A below the noise 8\d°–1\d\d°, B shows everywhere/,
  );
  await slopes.getByRole("button", { name: "Table" }).click();
  await expect(slopes.locator("tbody tr")).toHaveCount(59);
});

test("crops move together, a box is measured, and pictures leave as files", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.setViewportSize({ width: 1280, height: 1500 });
  await page.goto(`/bench/${id}?row=1&chart=look`);
  await expect.poll(async () => (await statistics(page, "crop-B")).mean).toBeGreaterThan(10);
  const crop = page.getByTestId("crop-A");
  const box = await crop.boundingBox();
  if (!box) throw new Error("no crop");
  const before = await statistics(page, "crop-B");
  await page.mouse.move(box.x + 100, box.y + 100);
  await page.mouse.wheel(0, -400);
  await expect(page.getByTestId("look-zoom-value")).not.toHaveText("100 %");
  await expect.poll(async () => (await statistics(page, "crop-B")).noise).not.toBe(before.noise);
  await page.getByRole("button", { name: "Measure" }).click();
  await page.mouse.move(box.x + 120, box.y + 90);
  await page.mouse.down();
  await page.mouse.move(box.x + 240, box.y + 190, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByTestId("measured").locator("tbody tr")).toHaveCount(8);
  // Two planes as two real exposures would show them: red against green of path B in one sub.
  await expect(page.getByRole("list", { name: "Planes against each other" })).toContainText(
    /Dual band 7 nm, r holds \d+ e- a pixel in 180 s \(\d+ ADU with the offset\), Dual band 7 nm, g holds \d+ e-.*: \d\.\d\d times as much/,
  );
  await page.getByTestId("look-mode").click();
  await page.getByRole("option", { name: "B less A" }).click();
  await expect(page.getByText("around mid grey; the same is grey")).toBeVisible();
  const [png] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "PNG" }).click()]);
  expect(png.suggestedFilename()).toBe("IC 443 B.png");
  const [fits] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "FITS of the crop" }).click(),
  ]);
  const stream = await fits.createReadStream();
  const chunks: Buffer[] = [];
  for await (const c of stream) chunks.push(c as Buffer);
  const head = Buffer.concat(chunks).subarray(0, 2880).toString("latin1");
  expect(head).toContain("SIMPLE  =                    T");
  expect(head).toContain("OBJCTRA = '06 16");
  await axe(page);
});

test("one sub stands beside its stack, captions are short, and crops fill the row", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.setViewportSize({ width: 1280, height: 1500 });
  await page.goto(`/bench/${id}?row=1&chart=look`);
  await expect.poll(async () => (await statistics(page, "crop-B")).mean).toBeGreaterThan(10);
  const width = async (test: string) => (await page.getByTestId(test).boundingBox())?.width ?? 0;
  // Three crops share the row; on a phone each has one of its own.
  const row = await width("crops");
  for (const letter of ["A", "B", "C"]) expect(await width(`crop-${letter}`)).toBeGreaterThan(row / 3 - 12);
  await expect(page.getByText(/^4 h: red target, neutral sky; .*; slope \d\.\d %/)).toBeVisible();
  await expect(page.getByTestId("look-details-B")).toBeHidden();
  await page.getByText("What B shows").click();
  await expect(page.getByTestId("look-details-B")).toContainText("balanced on a sunlike star");
  await expect(page.getByTestId("look-details-B")).toContainText("A star of V 9 stands");
  const stack = (await statistics(page, "crop-B")).noise;
  await page.getByTestId("look-mode").click();
  await page.getByRole("option", { name: "One sub of B and its stack" }).click();
  await expect(page.getByTestId("one-sub")).toContainText("One sub: 180 s");
  await expect(page.getByText(/The stack: \d+ subs in 4 h/)).toBeVisible();
  const sub = page.getByTestId("one-sub").getByTestId("crop-B");
  await expect(sub).toBeVisible();
  await page.evaluate(() => {
    for (const c of document.querySelectorAll('[data-testid="crop-B"]')) c.setAttribute("data-testid", "");
    document.querySelector('[data-testid="one-sub"] canvas')?.setAttribute("data-testid", "sub-B");
  });
  expect((await statistics(page, "sub-B")).noise).toBeGreaterThan(2 * stack);
  await axe(page);
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto(`/bench/${id}?row=1&chart=look`);
  await expect(page.getByTestId("crop-A")).toBeVisible();
  expect(await width("crop-A")).toBeGreaterThan((await width("crops")) - 2);
});

test("halos stand at the field's own stars, and crops go there and back", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.setViewportSize({ width: 1280, height: 1500 });
  await page.goto(`/bench/${id}?row=2&chart=look`);
  const halos = page.getByTestId("field-halos");
  // IC 443 lies between Tejat and Propus; only Propus stands on the refractor's sensor.
  await expect(halos).toContainText("Halos on the sensor of C");
  await expect.poll(async () => (await statistics(page, "crop-C")).mean).toBeGreaterThan(10);
  const before = await statistics(page, "crop-C");
  await halos.getByRole("button", { name: /^Tejat 2\.9/ }).click();
  await expect(page).toHaveURL(/look=right_arcsec/);
  await expect.poll(async () => (await statistics(page, "crop-C")).mean).toBeGreaterThan(before.mean + 20);
  await axe(page);
  await halos.getByRole("button", { name: "Back to the target" }).click();
  await expect(halos.getByRole("button", { name: "Back to the target" })).toHaveCount(0);
  await expect.poll(async () => (await statistics(page, "crop-C")).mean).toBeLessThan(before.mean + 10);
});

test("a blind look names nothing before its reveal, and keeps what the eye said", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?row=1&chart=look`);
  await expect(page.getByTestId("crop-A")).toBeVisible();
  const answers: string[] = [];
  await page.getByTestId("blind").click();
  await expect(page).toHaveURL(/\/blind\//);
  page.on("response", async (r) => {
    if (r.url().includes("/api/")) answers.push((await r.body().catch(() => Buffer.from(""))).toString("latin1"));
  });
  await page.reload();
  await expect(page.getByTestId("blind-2")).toBeVisible();
  await axe(page);
  const names = ["H-alpha and [O III] 3 nm", "dual band 7 nm", "no filter", "Dual band", "Larch Lane"];
  for (let round = 0; round < 3; round++) {
    await expect(page.getByRole("heading", { level: 1 })).toContainText(`Round ${round + 1}`);
    await expect(page.getByTestId("blind-2")).toBeVisible();
    const seen = (await page.content()).toLowerCase() + answers.join("").toLowerCase();
    expect(names.filter((name) => seen.includes(name.toLowerCase()))).toEqual([]);
    await page.keyboard.press("2");
    await page.keyboard.press("1");
    // In the last round the third is as good as the second.
    if (round === 2) await page.keyboard.press("=");
    await page.keyboard.press("3");
    if (round < 2) await page.getByTestId("blind-next").click();
  }
  await expect(page.getByRole("button", { name: /is tied second/ })).toHaveCount(2);
  await page.getByTestId("blind-reveal").click();
  await expect(page.getByTestId("revealed")).toContainText("Colour, dual band 7 nm");
  await expect(page.getByTestId("revealed")).toContainText("= 2.");
  await expect(
    page.getByText(
      /Your eye agreed with the figures on \d of \d pairs.*; by chance it would be [\d.]+ \(\d to \d in nine of ten looks\)/,
    ),
  ).toBeVisible();
  await axe(page);
});
