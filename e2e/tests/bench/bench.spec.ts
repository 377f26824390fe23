import { axe, copyOf, expect, number, test } from "../fixtures";

test("the demo shows three ways to photograph one target", async ({ strict: page }) => {
  await page.goto("/");
  await expect(page).toHaveURL(/\/tonight$/);
  await page.getByRole("link", { name: "IC 443 from Larch Lane", exact: true }).click();
  await expect(page.getByTestId("snr-A")).toHaveText(/^\d+\.\d$/);
  await expect(page.getByTestId("path-B")).toContainText("Dual band 7 nm");
  await expect(page.getByTestId("path-C")).toContainText("No filter");
  await expect(page.getByTestId("difference-B")).toContainText(
    / times .*H-alpha \+ \[N II\]|H-alpha \+ \[N II\].* times/,
  );
  await expect(page.getByTestId("verdicts")).toContainText("is as good");
});

test("a darker sky is answered at once, and a moon costs oxygen most", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  const snr = page.getByTestId("snr-C");
  await expect(snr).toHaveText(/\d/);
  const before = number(await snr.textContent());
  const sky = page.getByTestId("sky").getByRole("slider");
  const box = await page.getByTestId("sky").boundingBox();
  if (!box) throw new Error("no slider");
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.95, box.y + box.height / 2, { steps: 8 });
  await page.mouse.up();
  await expect.poll(async () => number(await snr.textContent())).toBeGreaterThan(before * 1.5);
  await expect(page).toHaveURL(/sky=21/);
  await expect(sky).toHaveAttribute("aria-valuetext", /^21\./);

  const values = async (q: string) => {
    await page.getByRole("radio", { name: q, exact: true }).click();
    await expect(page.getByRole("radio", { name: q, exact: true })).toBeChecked();
    return number(await page.getByTestId("snr-A").textContent());
  };
  const dark = [await values("[O III]"), await values("H-alpha + [N II]")];
  await page.getByRole("switch", { name: "Moon in the sky" }).click();
  await expect(page.getByText(/^adds \d/)).toBeVisible();
  const moonlit = [await values("[O III]"), await values("H-alpha + [N II]")];
  expect((moonlit[0] ?? 0) / (dark[0] ?? 1)).toBeLessThan((moonlit[1] ?? 0) / (dark[1] ?? 1));
});

test("a site of the shelf becomes the sky", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await page.getByRole("button", { name: "more", exact: true }).click();
  await page.getByTestId("site").click();
  await page.getByRole("option", { name: "Heron Lake" }).click();
  await expect(page.getByTestId("sky-value")).toHaveText("21.60");
  await axe(page);
});

test("a filter is edited in place, saved, and there after a reload", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  const goal = page.getByTestId("goal-B");
  await expect(goal).toHaveText(/h/);
  const before = await goal.textContent();
  await page.getByTestId("stage-B-filter").click();
  await page.getByTestId("filter-0").click();
  await page.getByRole("option", { name: "Dual band 3 nm" }).click();
  await expect(page.getByTestId("stage-B-filter")).toContainText("Dual band 3 nm");
  await expect(goal).not.toHaveText(before ?? "");
  await expect(page.getByTestId("save-state")).toContainText("Unsaved");
  await page.keyboard.press("Escape");
  await page.keyboard.press("Control+s");
  await expect(page.getByTestId("save-state")).toHaveText("Saved");
  const after = await goal.textContent();
  await page.reload();
  await expect(page.getByTestId("stage-B-filter")).toContainText("Dual band 3 nm");
  await expect(goal).toHaveText(after ?? "");
});

test("an unsaved draft outlives a reload, and u takes it back", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?edit=1.sensor`);
  await page.getByTestId("gain").click();
  await page.getByRole("option", { name: "0", exact: true }).click();
  await expect(page.getByTestId("stage-B-sensor")).toContainText("gain 0");
  await page.reload();
  await expect(page.getByTestId("stage-B-sensor")).toContainText("gain 0");
  await expect(page.getByTestId("save-state")).toContainText("Unsaved");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "More for path B" }).click();
  await page.getByRole("menuitem", { name: /Remove/ }).click();
  await expect(page.getByTestId("path-C")).toHaveCount(0);
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(page.getByTestId("path-C")).toBeVisible();
});

test("a wrong number keeps what was typed and says what is accepted", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?edit=0.optics`);
  const aperture = page.getByTestId("aperture");
  await aperture.fill("-5");
  await expect(page.getByText("give 5 to 20000 mm")).toBeVisible();
  await expect(aperture).toHaveValue("-5");
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  await aperture.fill("101,6");
  await expect(page.getByTestId("stage-A-optics")).toContainText("101.6 mm");
  await page.getByLabel("Obstruction").fill("100");
  await expect(page.getByRole("alert")).toContainText("path A, optics, obstruction");
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
});

test("two tabs: the second save is told and overwrites nothing", async ({ strict: page, context }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  const other = await context.newPage();
  await other.goto(`/bench/${id}`);
  await other.getByLabel("Title").fill("Theirs");
  await other.getByRole("button", { name: "Save", exact: true }).click();
  await expect(other.getByTestId("save-state")).toHaveText("Saved");
  await page.getByLabel("Title").fill("Mine");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("dialog")).toContainText("Somebody saved this first");
  await axe(page);
  expect((await (await page.request.get(`/api/v1/scenarios/${id}`)).json()).title).toBe("Theirs");
  await page.getByRole("button", { name: "Save mine as a copy" }).click();
  await expect(page.getByLabel("Title")).toHaveValue("Mine (mine)");
  expect((await (await page.request.get(`/api/v1/scenarios/${id}`)).json()).title).toBe("Theirs");
});

test("a draft left behind at an older revision still meets the conflict after reloads", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await page.getByLabel("Title").fill("Mine");
  await expect(page.getByTestId("save-state")).toContainText("Unsaved");
  const stored = await (await page.request.get(`/api/v1/scenarios/${id}`)).json();
  const saved = await page.request.put(`/api/v1/scenarios/${id}`, {
    headers: { "If-Match": `"${stored.revision}"` },
    data: { ...stored.scenario, title: "Theirs" },
  });
  expect(saved.status()).toBe(200);
  for (let i = 0; i < 2; i++) {
    await page.reload();
    await expect(page.getByLabel("Title")).toHaveValue("Mine");
  }
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("dialog")).toContainText("Somebody saved this first");
  await page.getByRole("button", { name: "Show theirs instead" }).click();
  await expect(page.getByLabel("Title")).toHaveValue("Theirs");
});

test("scenarios are renamed, duplicated, and a deletion is undone", async ({ strict: page }) => {
  await copyOf(page, "heron-lake-ngc-7129");
  await page.goto("/bench");
  await page.getByRole("button", { name: "Rename NGC 7129 from Heron Lake (copy)" }).click();
  await page.getByLabel("New title").fill("Dust");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("link", { name: "Dust", exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Duplicate Dust" }).click();
  await expect(page.getByRole("link", { name: "Dust (copy)" })).toBeVisible();
  await page.getByRole("button", { name: "Delete Dust (copy)" }).click();
  await expect(page.getByRole("link", { name: "Dust (copy)" })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("link", { name: "Dust (copy)" })).toBeVisible();
  await page.getByRole("button", { name: "Delete Dust (copy)" }).click();
  await expect(page.getByRole("link", { name: "Dust (copy)" })).toHaveCount(0);
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(page.getByRole("link", { name: "Dust (copy)" })).toBeVisible();
});

test("a row is hidden, stays hidden after a reload, and is shown again", async ({ strict: page }) => {
  await page.goto("/bench/larch-lane-ic-443?row=2");
  await page.getByRole("button", { name: "More for path C" }).click();
  await page.getByRole("menuitem", { name: "Hide" }).click();
  await expect(page.getByTestId("path-C")).toHaveCount(0);
  await expect(page.getByTestId("verdicts")).toContainText("Mono, H-alpha");
  await expect(page.getByRole("img", { name: /against clock time for 2 paths/ })).toBeVisible();
  await page.reload();
  await expect(page.getByTestId("hidden-rows")).toContainText("Colour, no filter");
  await expect(page.getByTestId("path-C")).toHaveCount(0);
  await page.getByRole("button", { name: "Show path C" }).click();
  await expect(page.getByTestId("path-C")).toBeVisible();
});

test("everything is reached by keyboard", async ({ strict: page }) => {
  await page.goto("/bench/larch-lane-ic-443");
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keyboard" })).toContainText("Undo");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog", { name: "Keyboard" })).toHaveCount(0);
  await page.keyboard.press("2");
  await expect(page).toHaveURL(/q=oiii/);
  await page.keyboard.press("Control+k");
  await page.keyboard.type("daylight");
  await page.keyboard.press("Enter");
  await expect(page.locator("html")).toHaveAttribute("data-theme", "daylight");
  await page.getByTestId("stage-A-filter").focus();
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("filter-0")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByTestId("stage-A-filter")).toBeFocused();
  await page.keyboard.press("g");
  await page.keyboard.press("b");
  await expect(page).toHaveURL(/\/bench$/);
});

test("a lost address and a lost scenario are explained", async ({ strict: page }) => {
  await page.goto("/nowhere");
  await expect(page.getByText("There is nothing at this address.")).toBeVisible();
  await page.goto("/bench/no-such-id");
  await expect(page.getByText("This comparison cannot be shown.")).toBeVisible();
});

test("it can be used on a tablet and on a phone without scrolling sideways", async ({ strict: page }) => {
  for (const width of [1024, 390]) {
    await page.setViewportSize({ width, height: 800 });
    await page.goto("/bench/larch-lane-ic-443");
    await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(width);
  }
});
