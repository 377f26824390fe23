import { axe, expect, test } from "../fixtures";

test("two nebulae are framed at once, and the angle is read", async ({ strict: page }) => {
  await page.goto("/targets?object=IC+1805");
  const field = page.getByRole("img", { name: /IC 1805.* under 2 fields/ });
  await expect(field).toBeVisible();
  const words = page.getByTestId("framing");
  await expect(words).toContainText("turned 0°");
  await page.getByTestId("together").fill("Soul");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "Leave out Soul" })).toBeVisible();
  // Their middle, and the long way across the two: what a sensor of 2.7 by 1.8 degrees takes three panels for.
  await expect(words).toContainText(/turned -\d\d°/);
  await expect(words).toContainText("02h 4");
  await expect(page.getByText(/^1 × 3 panels with 15 % overlap, 3 times the time of one/).first()).toBeVisible();
  await expect(page.getByRole("img", { name: /IC 1805.*; IC 1848.*under 2 fields/ })).toBeVisible();
  // A wider rig takes both at once.
  await page.getByLabel("A telescope to draw").click();
  await page.getByRole("option", { name: "135 mm f/2.8 camera lens" }).click();
  await page.getByLabel("A camera to draw").click();
  await page.getByRole("option", { name: "62 MP mono full frame, 3.76 um" }).click();
  await page.getByRole("button", { name: "Draw it" }).click();
  await page.getByRole("button", { name: "Frame with it" }).last().click();
  await expect(page.getByText(/^One panel holds all 2\./)).toBeVisible();
  // A name that stands nowhere near, or nowhere at all, says so, and is taken out again.
  await page.getByTestId("together").fill("M 42");
  await page.getByRole("button", { name: "Add" }).click();
  await expect(page.getByRole("alert")).toContainText("too far away");
  await page.getByRole("button", { name: "Leave out M 42" }).click();
  await expect(page.getByRole("alert")).toHaveCount(0);
  await axe(page);
});

test("panels follow the frame, as many as it takes or as are wanted, and their middles are a file", async ({
  strict: page,
}) => {
  await page.goto("/targets?object=NGC+7000&angle=0");
  await expect(page.getByText(/^1 × 2 panels with 15 % overlap/)).toBeVisible();
  await page.getByTestId("panels").click();
  await page.getByRole("option", { name: "2 × 2" }).click();
  await expect(page.getByText(/^2 × 2 panels with 15 % overlap, 4 times/)).toBeVisible();
  await page.getByTestId("overlap").fill("25");
  await expect(page.getByText(/^2 × 2 panels with 25 % overlap/)).toBeVisible();
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save 4 middles" }).click();
  const file = await waiting;
  expect(file.suggestedFilename()).toBe("NGC 7000 panels.csv");
  const text = await (await file.createReadStream()).toArray();
  expect(String(Buffer.concat(text)).trim().split("\r\n")).toHaveLength(5);
});

test("a framing is kept with a comparison, is shown from there, and taking it back is one key", async ({
  strict: page,
}) => {
  // One of its own: others may be called like the shipped one.
  const { scenario } = await (await page.request.get("/api/v1/scenarios/larch-lane-ic-443")).json();
  const title = `IC 443, framed at forty degrees, ${Date.now()}`;
  const made = await page.request.post("/api/v1/scenarios", { data: { ...scenario, title, frame: null } });
  const { id } = await made.json();
  await page.goto("/targets?object=IC+443&angle=40&east=6");
  await page.getByTestId("keep-framing").click();
  await page.getByRole("option", { name: title }).click();
  await expect(page.getByText(`Kept with ${title}`)).toBeVisible();
  await page.goto(`/bench/${id}?edit=0.target`);
  await expect(page.getByTestId("frame")).toContainText(/turned 40°/);
  await page.getByTestId("frame").getByRole("link", { name: "Show it on the sky" }).click();
  await expect(page).toHaveURL(/object=IC\+443/);
  await expect(page.getByTestId("framing")).toContainText("turned 40°");
  // Once more elsewhere, and back by u.
  await page.goto("/targets?object=IC+443&angle=70");
  await page.getByTestId("keep-framing").click();
  await page.getByRole("option", { name: title }).click();
  await expect(page.getByText(/^Kept with/)).toBeVisible();
  await page.locator("main").focus();
  const saved = page.waitForResponse((r) => r.request().method() === "PUT");
  await page.keyboard.press("u");
  await saved;
  await page.goto(`/bench/${id}?edit=0.target`);
  await expect(page.getByTestId("frame")).toContainText(/turned 40°/);
  await page.getByTestId("frame").getByRole("button", { name: "Forget the framing" }).click();
  await expect(page.getByTestId("frame")).toHaveCount(0);
  await page.request.delete(`/api/v1/scenarios/${id}`);
});

test("a framing is kept with a campaign, and taken back with it; coordinates are pasted", async ({ strict: page }) => {
  await page.goto("/campaign");
  const framing = page.getByTestId("framing");
  // Whatever another test has left there.
  await expect(framing).toContainText(/°.+°/);
  const before = (await framing.textContent()) ?? "";
  expect(before).not.toContain("06h 18m 00.0s");
  await page.goto("/targets?object=IC+443&angle=55");
  await page.getByTestId("look-at").fill("06 18 00 +22 40 00");
  await page.keyboard.press("Enter");
  await expect(framing).toContainText("06h 18m 00.0s +22° 40′ 00″");
  await expect(framing).toContainText("turned 55°");
  await page.getByTestId("keep-framing").click();
  await page.getByRole("option", { name: "IC 443, winter 2026-27" }).click();
  await expect(page.getByText("Kept with IC 443, winter 2026-27")).toBeVisible();
  // Two messages of one page offer their ways back; the key takes the last.
  const saved = page.waitForResponse((r) => r.request().method() === "PUT");
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await saved;
  await page.goto("/campaign");
  await expect(framing).toHaveText(before);
});

test("a header is the way back to last night's framing, its angle included", async ({ strict: page }) => {
  await page.goto("/targets?object=M+31");
  await page.getByText("Back to the framing of a frame that was shot").click();
  const box = page.getByLabel("Paste its header, or drop the FITS file here");
  await box.fill("dear diary");
  await page.getByRole("button", { name: "Take it over" }).click();
  await expect(page.getByRole("alert")).toContainText("this is no header");
  await expect(box).toHaveValue("dear diary");
  const header = [
    "NAXIS1  = 6248",
    "NAXIS2  = 4176",
    "XPIXSZ  = 3.76",
    "FOCALLEN= 620",
    "OBJCTRA = '06 17 13'",
    "OBJCTDEC= '+22 31 05'",
    "POSANGLE= 20.5",
    "OBJECT  = 'Jellyfish'",
  ];
  await box.fill(header.join("\n"));
  await page.getByRole("button", { name: "Take it over" }).click();
  await expect(page.getByRole("heading", { level: 2, name: /^IC 443/ })).toBeVisible();
  await expect(page.getByTestId("framing")).toContainText("06h 17m 13.0s");
  await expect(page.getByTestId("framing")).toContainText("turned 20.5°");
  await expect(page.getByText("the header's rig")).toBeVisible();
  // What was understood stands beside it, over the object that it brought back.
  await expect(page.getByTestId("header-understood")).toContainText("OBJCTRA, OBJCTDEC");
  // A file is dropped: its first cards are read.
  const cards = [...header, "END"].map((c) => c.replace("20.5", "-33").padEnd(80)).join("");
  const data = await page.evaluateHandle((text) => {
    const transfer = new DataTransfer();
    transfer.items.add(new File([text.padEnd(2880 * 2)], "light.fits"));
    return transfer;
  }, cards);
  await page.getByTestId("last-frame").dispatchEvent("drop", { dataTransfer: data });
  await expect(page.getByTestId("framing")).toContainText("turned -33°");
  await expect(page.getByTestId("header-understood")).toContainText("POSANGLE");
  await axe(page);
});

test("tonight's list is narrowed by season and by fit", async ({ strict: page }) => {
  await page.goto("/targets?object=IC+443&list=tonight");
  const list = page.getByTestId("tonight-list");
  await expect(list.locator("li")).toHaveCount(40);
  const first = await list.textContent();
  await page.getByTestId("season").click();
  await page.getByRole("option", { name: "Its last weeks" }).click();
  await expect(page).toHaveURL(/season=late/);
  await expect.poll(() => list.textContent()).not.toBe(first);
  await page.getByTestId("fit").click();
  await page.getByRole("option", { name: "Wants a mosaic" }).click();
  const shares = async () =>
    [...((await list.textContent()) ?? "").matchAll(/(\d+) % of field/g)].map((m) => Number(m[1]));
  await expect.poll(async () => Math.min(...(await shares()))).toBeGreaterThanOrEqual(90);
});

test("a bright star's halo leaves the sensor as the frame is turned", async ({ strict: page }) => {
  // Alnitak stands a degree east of the middle: on the long way of the sensor, and not on its short one.
  await page.goto("/targets?object=IC+434&angle=0&east=-66&site=heron-lake");
  const words = page.getByTestId("field-stars");
  await expect(words).toContainText(/Alnitak of V 1\.7 grows|Alnitak of V 1\.7, the brightest/);
  await expect(page.getByTestId("halo").first()).toBeVisible();
  const turned = page.getByRole("slider", { name: "Camera turned" });
  await turned.focus();
  // Step by step, each answered before the next: a little further Alnilam comes in.
  for (let i = 0; i < 36; i++) {
    const answer = page.waitForResponse((r) => r.url().includes("field"), { timeout: 15_000 }).catch(() => null);
    await page.keyboard.press("PageUp");
    await answer;
    await page.waitForTimeout(200);
    if (/No halo shows plainly/.test((await words.textContent()) ?? "")) break;
  }
  await expect(words).not.toContainText("Alnitak");
  await expect(words).toContainText("No halo shows plainly");
  await expect(page.getByTestId("halo")).toHaveCount(0);
});
