import { axe, expect, test } from "../fixtures";

const NIGHT = "/night?campaign=ic-443-winter&date=2027-01-28";
const minutes = (text: string | null | undefined) => {
  const [, h = "0", m = "0"] = /(\d\d):(\d\d)/.exec(text ?? "") ?? [];
  return ((Number(h) + 12) % 24) * 60 + Number(m);
};

test("a galaxy and a nebula share a night in three clicks, and change when they are told", async ({ strict: page }) => {
  await page.goto(NIGHT);
  await expect(page.getByTestId("block-0")).toBeVisible();
  await page.getByTestId("add-target").click();
  // Other comparisons may be of the same galaxy.
  await page.getByRole("button", { name: "NGC 2403 from Heron Lake", exact: true }).first().click();
  await expect(page.getByTestId("block-2-0")).toBeVisible();
  await expect(page.getByTestId("run-sheet")).toContainText(/Move to (NGC 2403|IC 443)/);
  await expect(page.getByRole("button", { name: /^IC 443, / }).first()).toBeVisible();
  await axe(page);
  // At a time: the galaxy begins with the move behind it.
  await page.getByTestId("change-0").click();
  await page.getByRole("option", { name: "at a time" }).click();
  await page.getByTestId("change-at-0").fill("23:00");
  await expect(page.getByTestId("block-2-0")).toHaveAttribute("aria-label", /^NGC 2403, .*, 23:05 to /);
  // Alongside: both have the whole night.
  await page.getByTestId("change-0").click();
  await page.getByRole("option", { name: /alongside/ }).click();
  await expect(page.getByTestId("run-sheet")).toContainText("on its own mount");
  await page.reload();
  await expect(page.getByTestId("run-sheet")).toContainText("on its own mount");
  // A third, by name; a name that nobody knows is said, and taken out.
  await page.getByTestId("add-target").click();
  await page.getByTestId("add-target-name").fill("NGC 0000");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert")).toContainText('Nothing is known of "NGC 0000"');
  await page.getByRole("button", { name: "Take NGC 0000 out of the night" }).click();
  await expect(page.getByRole("alert")).toHaveCount(0);
  await page.getByRole("button", { name: "Take NGC 2403 out of the night" }).click();
  await expect(page.getByTestId("block-2-0")).toHaveCount(0);
});

test("a night is worked between hours of the clock, its set-up placed where it happens", async ({ strict: page }) => {
  await page.goto(NIGHT);
  await page.getByTestId("night-hours").click();
  await page.getByTestId("night-from").fill("20:00");
  await page.getByTestId("night-until").fill("03:00");
  await expect(page.getByTestId("run-sheet")).toContainText("20:00Set up");
  await axe(page);
  await page.keyboard.press("Escape");
  await expect(page.getByTestId("night-hours")).toHaveText("20:00 to 03:00, above 20°");
  await expect(page.getByTestId("block-0")).toHaveAttribute("aria-label", /, 20:20 to /);
  // Set-up in the dark takes its minutes from it.
  await page.goto(NIGHT);
  const begins = async () => minutes(await page.getByTestId("block-0").getAttribute("aria-label"));
  await expect(page.getByTestId("block-0")).toBeVisible();
  const before = await begins();
  await page.getByRole("button", { name: "overheads" }).click();
  await page.getByRole("switch", { name: /Set-up waits for the dark/ }).click();
  await expect.poll(begins).toBe(before + 20);
});

test("June offers the twilight that it has", async ({ strict: page }) => {
  const shelf = (await (await page.request.get("/api/v1/shelf")).json()) as {
    id: string;
    entry: { name: string; thing: { kind: string; item: Record<string, unknown> } };
  }[];
  const own = shelf.find((e) => e.id === "larch-lane");
  if (!own) throw new Error("no site");
  const { thing } = own.entry;
  const north = {
    ...own.entry,
    name: "North",
    thing: { ...thing, item: { ...thing.item, latitude_deg: 51, longitude_deg: 0, zone: "UTC" } },
  };
  const made = (await (await page.request.post("/api/v1/shelf", { data: north })).json()) as { id: string };
  await page.goto(`/night?bench=larch-lane-ngc-7822&row=1&date=2027-06-21&site=${made.id}`);
  await expect(page.getByTestId("night-twilight")).toContainText("it stays 1 h");
  await axe(page);
  await page.getByRole("button", { name: "Plan down to −15°" }).click();
  await expect(page.getByTestId("block-0")).toBeVisible();
  await expect(page.getByTestId("night-twilight")).toHaveCount(0);
  await expect(page.getByTestId("night-hours")).toContainText("sun below −15°");
  await page.request.delete(`/api/v1/shelf/${made.id}`);
});

test("cloudy hours are struck out on the axis by pointer and by keys", async ({ strict: page }) => {
  await page.goto(NIGHT);
  const axis = await page.getByTestId("cloud-axis").boundingBox();
  if (!axis) throw new Error("no axis");
  const y = axis.y + axis.height / 2;
  await page.mouse.move(axis.x + axis.width * 0.4, y);
  await page.mouse.down();
  await page.mouse.move(axis.x + axis.width * 0.5, y, { steps: 5 });
  await page.mouse.up();
  const cloud = page.getByTestId("cloud-0");
  await expect(cloud).toBeVisible();
  const [from, to] = ((await cloud.getAttribute("aria-label")) ?? "").match(/\d\d:\d\d/g) ?? [];
  const clear = async () => {
    const labels = await page
      .locator("[data-testid^=block-]")
      .evaluateAll((all) => all.map((b) => b.getAttribute("aria-label") ?? ""));
    const blocks = labels.flatMap((l) => {
      const [a, b] = l.match(/\d\d:\d\d/g) ?? [];
      return a && b ? [[minutes(a), minutes(b)] as const] : [];
    });
    return blocks.length > 1 && blocks.every(([a, b]) => b <= minutes(from) || a >= minutes(to));
  };
  await expect.poll(clear).toBe(true);
  await page.reload();
  await expect(cloud).toBeVisible();
  await cloud.focus();
  await page.keyboard.press("ArrowRight");
  await expect(cloud).not.toHaveAttribute("aria-label", new RegExp(`from ${from} `));
  await cloud.focus();
  await page.keyboard.press("Delete");
  await expect(cloud).toHaveCount(0);
});

test("what has far better nights ahead waits for them, unless it shall not", async ({ strict: page }) => {
  await page.goto("/night?campaign=ic-443-winter&date=2026-12-24");
  const waits = page.getByTestId("night-waits");
  await expect(waits).toContainText(/\[O III\] 3 nm waits for darker nights: an hour on \d+ [A-Z][a-z]+ brings/);
  const oiii = page.getByRole("button", { name: /^\[O III\] 3 nm, \d\d:\d\d/ });
  await expect(oiii).toHaveCount(0);
  await page.getByRole("button", { name: "Plan it tonight all the same" }).click();
  await expect(oiii.first()).toBeVisible();
  await page.getByRole("button", { name: "Weigh it against the nights ahead" }).click();
  await expect(oiii).toHaveCount(0);
});

test("a list that is too long is offered shorter, and the camera is told in a table", async ({ strict: page }) => {
  await page.goto(`${NIGHT}&mode=fixed&subs=90,90`);
  await expect(page.getByTestId("night-offered")).toContainText(
    /^90 subs of each are too many for this night: \d+ of each fit\./,
  );
  await page.getByRole("button", { name: "Take what fits" }).click();
  await expect(page.getByTestId("night-offered")).toHaveCount(0);
  await page.getByTestId("sequence").click();
  const table = page.getByTestId("sequence-table");
  await expect(table.locator("tbody tr").first()).toContainText("H-alpha 3 nm");
  const slot = table.locator("tbody tr").first().locator("td").nth(4);
  await expect(slot).toHaveText(/^\d$/);
  await axe(page);
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("dialog").getByRole("button", { name: "CSV" }).click(),
  ]);
  let csv = "";
  for await (const chunk of await download.createReadStream()) csv += chunk;
  expect(csv).toContain("start_utc,target,ra_deg");
  await page.keyboard.press("Escape");
  await expect(table).toHaveCount(0);
});

test("a finger moves a block and strikes cloud out, below the chart that comes first", async ({ browser, baseURL }) => {
  const context = await browser.newContext({
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
    baseURL,
  });
  const page = await context.newPage();
  await page.goto(NIGHT);
  const block = page.getByTestId("block-0");
  await expect(block).toBeVisible();
  const chart = await page.getByRole("region", { name: "The night" }).boundingBox();
  const form = await page.getByTestId("night-mode").boundingBox();
  expect(chart?.y).toBeLessThan(form?.y ?? 0);
  const before = await block.getAttribute("aria-label");
  const touch = await context.newCDPSession(page);
  const drag = async (of: ReturnType<typeof page.getByTestId>, by: number) => {
    await of.scrollIntoViewIfNeeded();
    const box = await of.boundingBox();
    if (!box) throw new Error("nothing to drag");
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await touch.send("Input.dispatchTouchEvent", { type: "touchStart", touchPoints: [{ x, y }] });
    for (const part of [0.25, 0.5, 0.75, 1])
      await touch.send("Input.dispatchTouchEvent", { type: "touchMove", touchPoints: [{ x: x + by * part, y }] });
    await touch.send("Input.dispatchTouchEvent", { type: "touchEnd", touchPoints: [] });
  };
  await drag(block.locator("rect").first(), 20);
  await expect(page.getByRole("button", { name: /, locked\. Arrows/ })).toHaveCount(1);
  await expect(block).not.toHaveAttribute("aria-label", before ?? "");
  await drag(page.getByTestId("cloud-axis"), 15);
  await expect(page.getByTestId("cloud-0")).toBeVisible();
  expect((await page.getByTestId("cloud-0").boundingBox())?.height).toBeGreaterThanOrEqual(39.5);
  await context.close();
});
