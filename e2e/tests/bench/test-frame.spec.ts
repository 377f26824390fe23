import path from "node:path";
import { axe, copyOf, expect, test } from "../fixtures";

const FRAMES = path.resolve(import.meta.dirname, "../../../reference/frames");

test("a frame is dropped, judged, corrected, and its sub and sky are taken over", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?chart=frame`);
  await expect(page.getByTestId("frame-panel")).toContainText("drop it here");
  await axe(page);
  // By the button, as by the keyboard; dropping is the same road.
  await page.getByLabel("A frame", { exact: true }).setInputFiles(path.join(FRAMES, "round.fits"));
  await expect(page.getByTestId("frame-headline")).toHaveText(/Go on|Stop/);
  await expect(page.getByTestId("frame-stars")).toContainText("Stars are");
  await expect(page.getByTestId("frame-said")).toContainText("EXPTIME");
  await expect(page.getByTestId("frame-numbers")).toContainText("Half-flux radius");
  // The frame is of another sky than the scene: said, with an offer.
  await expect(page.getByTestId("frame-sky")).toContainText("mag");
  // A header that was wrong is put right for this frame.
  const exposure = page.getByTestId("frame-header-exposure_s");
  await exposure.fill("30");
  await expect(page.getByTestId("frame-sub")).toContainText("in 30 s");
  await expect(page.getByTestId("frame-said")).toContainText("typed here");
  await exposure.fill("300");
  await expect(page.getByTestId("frame-sub")).toContainText("in 300 s");
  await page.getByTestId("frame-sub").getByText("Sub", { exact: true }).click();
  await expect(page.getByTestId("frame-sub")).toContainText("Read noise");
  await axe(page);
  const take = page.getByTestId("frame-take-sky");
  if (await take.isVisible()) {
    await take.click();
    await expect(page.getByTestId("frame-sky")).toContainText("agrees with the sky");
  }
  await page.getByRole("button", { name: "Keep as its test frame" }).click();
  await page.getByRole("tab", { name: "Sub", exact: true }).click();
  await expect(page.getByTestId("test-frame-told")).toContainText("test frame");
  // What was measured is there still.
  await page.getByRole("tab", { name: "Test frame" }).click();
  await expect(page.getByTestId("frame-headline")).toBeVisible();
});

test("what is no frame is said with its name, and nothing is lost", async ({ page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?chart=frame`);
  const input = page.getByLabel("A frame", { exact: true });
  await input.setInputFiles({ name: "notes.txt", mimeType: "text/plain", buffer: Buffer.from("dear diary") });
  await expect(page.getByRole("alert")).toContainText("notes.txt is no frame");
  await input.setInputFiles(path.join(FRAMES, "round.fits"));
  await expect(page.getByTestId("frame-headline")).toBeVisible();
  await expect(page.getByRole("alert")).toHaveCount(0);
  // Another camera's frame: this path needs another channel.
  await input.setInputFiles(path.join(FRAMES, "mosaic.fits"));
  await expect(page.getByTestId("frame-panel")).toContainText("it was not taken with this camera");
});
