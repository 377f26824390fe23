import { axe, expect, test } from "../fixtures";

const NIGHT = "/night?campaign=ic-443-winter&date=2027-01-28";

test("the demo night is planned, a block is dragged and locked, the rest planned anew, and undone", async ({
  strict: page,
}) => {
  await page.goto(NIGHT);
  await expect(page.getByTestId("night-summary")).toContainText("dark 18:33 to 05:33");
  await expect(page.getByTestId("run-sheet")).toContainText("before it rises at 00:50");
  const block = page.getByTestId("block-1");
  const before = await block.getAttribute("aria-label");
  const box = await block.locator("rect").first().boundingBox();
  if (!box) throw new Error("no block");
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 - 140, box.y + box.height / 2, { steps: 8 });
  await page.mouse.up();
  const moved = page.getByRole("button", { name: /locked/ });
  await expect(moved.first()).toBeVisible();
  await expect(page.getByTestId("run-sheet")).toContainText("Locked by you.");
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(page.getByTestId("block-1")).toHaveAttribute("aria-label", before ?? "");
  // By keyboard: arrows move, Enter locks and unlocks.
  await page.getByTestId("block-0").focus();
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("block-0")).toHaveAttribute("aria-pressed", "true");
  await page.getByTestId("replan").click();
  await expect(page.getByTestId("block-0")).toHaveAttribute("aria-pressed", "false");
  await axe(page);
});

test("any minute is read out, and the night has a table", async ({ strict: page }) => {
  await page.goto(NIGHT);
  const chart = page.getByRole("region", { name: "The night" });
  const sky = await page.getByRole("group", { name: "The night from dusk to dawn" }).boundingBox();
  if (!sky) throw new Error("no chart");
  const height = (await chart.boundingBox())?.height;
  // The axis runs from half an hour before sunset to half an hour after sunrise: its middle is deep in the night.
  await page.mouse.move(sky.x + sky.width * 0.45, sky.y + 100);
  await expect(page.getByTestId("minute")).toContainText(
    /^\d\d:\d\d: IC 443 \d\d° high, sun -\d\d°, moon down\. H-alpha 3 nm \d+ % of its best, sky 0\.\d+ e-\/s/,
  );
  await page.mouse.move(sky.x + 130, sky.y + 100);
  await expect(page.getByTestId("minute")).toContainText("Not dark.");
  expect((await chart.boundingBox())?.height).toBe(height);
  await page.mouse.move(5, 5);
  await expect(page.getByTestId("minute")).toContainText("Point at any minute");
  await chart.getByRole("button", { name: "Table" }).click();
  await expect(chart.getByRole("columnheader", { name: "H-alpha 3 nm: sky (e-/s/px)" })).toBeVisible();
  expect(await chart.locator("tbody tr").count()).toBeGreaterThan(50);
  await axe(page);
});

test("the plan leaves as a calendar, CSV and JSON, and as a printed run sheet", async ({ strict: page }) => {
  await page.goto(NIGHT);
  await expect(page.getByTestId("block-0")).toBeVisible();
  for (const [name, start] of [
    ["iCalendar", "BEGIN:VCALENDAR"],
    ["CSV", "target,ra_deg,dec_deg,"],
    ["JSON", '{"format":"salt-lamp-plan"'],
  ] as const) {
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      page.getByRole("button", { name, exact: true }).click(),
    ]);
    let text = "";
    for await (const chunk of await download.createReadStream()) text += chunk;
    expect(text.startsWith(start), text.slice(0, 60)).toBe(true);
    if (name === "iCalendar") expect(text.match(/BEGIN:VALARM/g)?.length).toBeGreaterThanOrEqual(3);
  }
  const pdf = (await page.pdf({ format: "A4", printBackground: true })).toString("latin1");
  expect((pdf.match(/\/Type\s*\/Page\b(?!s)/g) ?? []).length).toBeLessThanOrEqual(2);
});

test("dates, sites, goals and a second target", async ({ strict: page }) => {
  await page.goto(NIGHT);
  await page.getByTestId("night-date").fill("2027-06-21");
  await expect(page.getByTestId("night-summary")).toContainText("target above its limit 0.0 h");
  await expect(page.getByText("does not rise above its limit while it is dark")).toBeVisible();
  await page.goto(NIGHT);
  await page.getByTestId("night-mode").click();
  await page.getByRole("option", { name: "Most H-alpha + [N II]" }).click();
  await expect(page.getByTestId("block-1")).toHaveCount(0);
  await page.goto(`${NIGHT}&then=NGC+3031`);
  await expect(page.getByTestId("run-sheet").locator("tr")).toHaveCount(7);
  await expect(page.getByTestId("run-sheet")).toContainText("Move to NGC 3031");
  await axe(page);
  // The second target's blocks move like the first's, and leave in the files.
  const block = page.getByTestId("block-2-0");
  const before = await block.getAttribute("aria-label");
  await block.focus();
  await page.keyboard.press("Enter");
  await expect(block).toHaveAttribute("aria-pressed", "true");
  const box = await block.locator("rect").first().boundingBox();
  if (!box) throw new Error("no block");
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 60, box.y + box.height / 2, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByRole("button", { name: /^NGC 3031.*locked/ }).first()).toBeVisible();
  await expect(block).not.toHaveAttribute("aria-label", before ?? "");
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "CSV", exact: true }).click(),
  ]);
  let csv = "";
  for await (const chunk of await download.createReadStream()) csv += chunk;
  expect(csv).toContain("IC 443");
  expect(csv).toContain("NGC 3031");
  await page.keyboard.press("u");
  await page.keyboard.press("u");
  await expect(block).toHaveAttribute("aria-label", before ?? "");
});

test("a fixed list, overheads, and a plan that is kept", async ({ strict: page }) => {
  await page.goto("/campaign?id=ic-443-winter");
  const crystal = page.getByRole("img", { name: /H-alpha 3 nm: \d+ % of its goal/ });
  const filled = (await crystal.getAttribute("aria-label")) ?? "";
  await page.goto(`${NIGHT}&mode=fixed`);
  await page.getByRole("button", { name: "overheads and list" }).click();
  await page.getByTestId("minutes-0").fill("120");
  await page.getByTestId("minutes-1").fill("90");
  await expect(page.getByTestId("block-0")).toHaveAttribute("aria-label", /H-alpha 3 nm, 18:35 to 20:35, 2\d subs/);
  const subs = async () =>
    Number(/(\d+) subs/.exec((await page.getByTestId("block-0").getAttribute("aria-label")) ?? "")?.[1]);
  const before = await subs();
  await page.getByTestId("overhead-settle_s").fill("120");
  await expect.poll(subs).toBeLessThan(before);
  await axe(page);
  // The list and the overheads are in the address: a reload keeps them.
  const changed = await subs();
  await page.reload();
  await expect.poll(subs).toBe(changed);
  // The night says when the campaign may be finished in the words of the campaign's own page.
  await expect(page.getByTestId("night-finish")).toContainText(/^Likely finished by 2027-/);
  const finish = await page.getByTestId("night-finish").textContent();
  await page.getByRole("button", { name: "Keep the plan" }).click();
  await expect(page.getByText("2027-01-28 planned in IC 443")).toBeVisible();
  // Counts that no longer fit are told, with those that do.
  await expect(page.getByTestId("night-kept")).toHaveCount(0);
  await page.goto(`${NIGHT}&mode=fixed&until=22:00`);
  await expect(page.getByTestId("night-kept")).toContainText(/\d+ of .* are too many now, \d+ fit/);
  await page.goto("/campaign?id=ic-443-winter");
  await expect(page.getByTestId("nights")).toContainText("planned H-alpha 3 nm");
  const state = (await (await page.request.get("/api/v1/campaigns/ic-443-winter/state?date=2027-01-28")).json()) as {
    finish: string;
  };
  expect(state.finish).toBe(finish);
  // What is only planned fills no crystal.
  await expect(crystal).toHaveAttribute("aria-label", filled);
  await page.getByRole("button", { name: "Take out 2027-01-28" }).click();
  await expect(page.getByTestId("nights")).not.toContainText("2027-01-28");
});

test("arrows go on moving a block that the plan has moved, and locks survive a reload", async ({ strict: page }) => {
  await page.goto(NIGHT);
  const focused = () => page.evaluate(() => document.activeElement?.getAttribute("aria-label") ?? "");
  const start = (label: string) => {
    const [, h = "0", m = "0"] = /, (\d\d):(\d\d) to/.exec(label) ?? [];
    return ((Number(h) + 12) % 24) * 60 + Number(m);
  };
  await page.getByTestId("block-1").focus();
  const before = await focused();
  // Quickly, so that some presses come before the plan of the one before.
  for (let i = 0; i < 3; i++) await page.keyboard.press("ArrowLeft");
  await expect.poll(async () => start(await focused())).toBe(start(before) - 15);
  expect(await focused()).toMatch(/locked/);
  await page.keyboard.press("ArrowLeft");
  await expect.poll(async () => start(await focused())).toBe(start(before) - 20);
  const moved = await focused();
  expect(await page.getByRole("button", { name: /, locked\. Arrows/ }).count()).toBe(1);
  await page.reload();
  await expect(page.getByRole("button", { name: /, locked\. Arrows/ })).toHaveAttribute("aria-label", moved);
  // Another evening is another plan.
  await page.getByRole("button", { name: /^Next night/ }).click();
  await expect(page.getByTestId("block-0")).toBeVisible();
  await expect(page.getByRole("button", { name: /, locked\. Arrows/ })).toHaveCount(0);
});

test("a fixed list is not doubled by a block that was moved by hand", async ({ strict: page }) => {
  await page.goto(`${NIGHT}&mode=fixed&minutes=90,60`);
  await expect(page.getByTestId("block-1")).toBeVisible();
  await page.getByTestId("block-0").focus();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("button", { name: /, locked\. Arrows/ })).toHaveCount(1);
  await expect(page.getByTestId("run-sheet")).toContainText("In the order of your list.");
  const blocks = await page
    .locator("[data-testid^=block-]")
    .evaluateAll((all) => all.map((b) => b.getAttribute("aria-label") ?? "").filter((l) => l.startsWith("H-alpha")));
  expect(blocks).toHaveLength(1);
});

test("a night beside the full moon says first what it costs, and when to come again", async ({ strict: page }) => {
  await page.goto("/night?campaign=ic-443-winter&date=2026-12-24");
  await expect(page.getByTestId("night-ahead")).toContainText(
    /^The moon is \d+° away: .* times as long.* as on a typical night of the month ahead\..*Best night: \d+ [A-Z][a-z]+\./,
  );
  await expect(page.getByTestId("night-instead")).toHaveText(/^Or NGC \d+.* instead$/);
  await axe(page);
  await page.goto("/night?campaign=ic-443-winter&date=2027-01-08");
  await expect(page.getByTestId("night-summary")).toContainText("moon 1.6 % lit");
  await expect(page.getByTestId("night-ahead")).toHaveCount(0);
});
