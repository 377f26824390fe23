import { readFile } from "node:fs/promises";
import { axe, copyOf, expect, number, test } from "./fixtures";

test("a curve from a spreadsheet is understood, taken, saved and exported", async ({ strict: page }) => {
  await page.goto("/shelf?kind=filter&id=uhc");
  await page.getByRole("button", { name: "Copy Ultra-high contrast" }).click();
  await expect(page.getByLabel("Name", { exact: true })).toHaveValue("Ultra-high contrast (copy)");
  await page.getByLabel("Name", { exact: true }).fill("From a spectrometer");
  await page.getByTestId("curve-file").setInputFiles({ name: "curve.csv", mimeType: "text/csv", buffer: Buffer.from("nm;T %\n490,5;1\n495;91,5\n505;92\n510;1\n") });
  const reading = page.getByTestId("curve-reading");
  await expect(reading).toContainText("semicolons, decimal comma");
  await expect(reading).toContainText("values in per cent");
  await page.getByRole("button", { name: "Take this curve" }).click();
  await expect(page.getByText("imported from curve.csv")).toBeVisible();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("button", { name: "From a spectrometer", exact: true })).toBeVisible();
  await page.reload();
  await expect(page.getByText("imported from curve.csv")).toBeVisible();
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save the curve as ECSV" }).click();
  const text = await readFile(await (await waiting).path(), "utf8");
  expect(text).toContain("# %ECSV 1.0");
  expect(text).toContain("495 0.915");
});

test("a damaged curve is refused with its row and nothing is lost", async ({ strict: page }) => {
  await page.goto("/shelf?kind=filter&id=sodium-notch");
  await page.getByRole("button", { name: "Paste" }).click();
  await page.getByPlaceholder(/480/).fill("480\t0.1\n490\tbright\n500\t0.2");
  await expect(page.getByTestId("curve-reading")).toContainText('row 2: "bright" is not a number');
  await expect(page.getByPlaceholder(/480/)).toHaveValue(/bright/);
});

test("a point is dragged, saved, and where it comes from is said", async ({ strict: page }) => {
  await page.goto("/shelf?kind=filter&id=lum");
  const point = page.getByTestId("point-1");
  const box = await point.boundingBox();
  if (!box) throw new Error("no point");
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 6, box.y + 60, { steps: 5 });
  await page.mouse.up();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("Saved", { exact: true })).toBeVisible();
  await expect(page.getByText("typed", { exact: true })).toBeVisible();
});

test("gear in use is put away, other gear is deleted, and both come back", async ({ strict: page }) => {
  await page.goto("/shelf?kind=telescope&id=lens-135");
  await page.getByRole("button", { name: "Delete 135 mm f/2.8 camera lens" }).click();
  await expect(page.getByText('Deleted "135 mm f/2.8 camera lens"')).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("button", { name: "135 mm f/2.8 camera lens", exact: true })).toBeVisible();
  await page.goto("/shelf?kind=telescope&id=refractor-90");
  await page.getByRole("button", { name: "Delete 90 mm f/5.5 refractor" }).click();
  await expect(page.getByText(/put away instead of deleted/)).toBeVisible();
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(page.getByRole("button", { name: "90 mm f/5.5 refractor", exact: true })).toBeVisible();
});

test("a camera or a site with a wrong number is refused beside its field", async ({ strict: page }) => {
  await page.goto("/shelf?kind=site&id=larch-lane");
  await page.getByLabel("LED 4000 K").fill("0.9");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("alert")).toContainText("lamps:");
  await expect(page.getByLabel("LED 4000 K")).toHaveValue("0.9");
});

test("targets are found, edited, framed and taken to the bench", async ({ strict: page }) => {
  await page.goto("/bench");
  await expect(page.getByRole("heading", { name: "Comparisons" })).toBeVisible();
  await page.keyboard.press("g");
  await page.keyboard.press("t");
  await expect(page).toHaveURL(/targets/);
  await page.getByLabel("Find a target by name").fill("ngc7822");
  await expect(page.getByRole("heading", { name: /NGC 7822/ })).toBeVisible();
  await expect(page.getByText("one panel").first()).toBeVisible();
  await page.getByTestId("line-ha").fill("77");
  await page.getByRole("button", { name: "Keep for this object" }).click();
  await expect(page.getByText("Your values.")).toBeVisible();
  await page.reload();
  await expect(page.getByTestId("line-ha")).toHaveValue("77");
  await page.getByRole("button", { name: "Take it to the bench" }).click();
  await expect(page.getByTestId("stage-A-target")).toContainText("NGC 7822");
  await page.goto("/targets?text=no+such+nebula");
  await expect(page.getByText(/Nothing by that name/)).toBeVisible();
});

test("the ranking puts a filter into the path, and the spectrum and the best band answer for it", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?row=1&chart=filters`);
  const first = page.getByTestId("ranking").getByRole("listitem").first();
  await expect(first).toContainText("Keeps");
  const before = number(await page.getByTestId("snr-B").textContent());
  await first.getByRole("button").click();
  await expect.poll(async () => number(await page.getByTestId("snr-B").textContent())).toBeGreaterThan(before);
  await page.getByRole("tab", { name: "Spectrum" }).click();
  await expect(page.getByRole("img", { name: /Filter, sensor, sky and target lines of path B/ })).toBeVisible();
  await page.getByRole("button", { name: "H-alpha, [S II]" }).click();
  await expect(page.getByText("H-alpha 656.3")).toBeVisible();
  await axe(page);
  await page.getByRole("tab", { name: "Bandwidth" }).click();
  await expect(page.getByText(/the best band for H-alpha under this sky/)).toBeVisible();
  await axe(page);
  // The same over the centre of the band: kept in the address, and in the table.
  await page.getByTestId("band-against").click();
  await page.getByRole("option", { name: "Its centre" }).click();
  await expect(page.getByTestId("band-surface-centre")).toBeVisible();
  await page.reload();
  await expect(page.getByTestId("band-surface-centre")).toBeVisible();
  const chart = page.getByRole("region", { name: /Bandwidth for H-alpha/ });
  await chart.getByRole("button", { name: "Table" }).click();
  await expect(chart.getByRole("columnheader", { name: "+8 nm" })).toBeVisible();
  await axe(page);
});

test("a filter too narrow for the cone is called so", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?edit=1.filter`);
  await page.getByTestId("filter-0").click();
  await page.getByRole("option", { name: "Dual band 3 nm" }).click();
  await expect(page.getByText(/Too narrow for f\/2.8/).first()).toBeVisible();
});

for (const theme of ["lamp", "daylight"]) {
  test(`no barriers that axe can find on shelf and targets, ${theme}`, async ({ strict: page }) => {
    await page.addInitScript((t) => localStorage.setItem("salt-lamp.theme", t), theme);
    for (const path of ["/shelf?kind=filter&id=uhc&compare=dual-7,uhc", "/shelf?kind=camera&id=colour-26", "/shelf?kind=site", "/targets?object=IC+443"]) {
      await page.goto(path);
      await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
      await page.waitForLoadState("networkidle");
      await axe(page);
    }
  });
}

test("ember leaves no pixel in green or blue", async ({ strict: page }) => {
  await page.addInitScript(() => localStorage.setItem("salt-lamp.theme", "ember"));
  for (const path of ["/bench/larch-lane-ic-443?chart=spectrum", "/shelf?kind=filter&id=uhc&compare=dual-7", "/targets?object=IC+443", "/bench/larch-lane-ic-443?chart=look", "/bench/larch-lane-ic-443?chart=sub", "/bench", "/night?campaign=ic-443-winter&date=2027-01-28", "/campaign"]) {
    await page.goto(path);
    await page.waitForLoadState("networkidle");
    const png = (await page.screenshot()).toString("base64");
    const worst = await page.evaluate(async (data) => {
      const image = new Image();
      image.src = `data:image/png;base64,${data}`;
      await image.decode();
      const canvas = document.createElement("canvas");
      [canvas.width, canvas.height] = [image.width, image.height];
      const context = canvas.getContext("2d");
      if (!context) return 255;
      context.drawImage(image, 0, 0);
      const pixels = context.getImageData(0, 0, image.width, image.height).data;
      let most = 0;
      for (let i = 0; i < pixels.length; i += 4) most = Math.max(most, pixels[i + 1] ?? 0, pixels[i + 2] ?? 0);
      return most;
    }, png);
    expect(worst).toBe(0);
  }
});
