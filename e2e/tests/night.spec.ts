import { axe, expect, test } from "./fixtures";

const NIGHT = "/night?campaign=ic-443-winter&date=2027-01-28";

test("the demo night is planned, a block is dragged and locked, the rest planned anew, and undone", async ({ strict: page }) => {
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
  await expect(page.getByTestId("minute")).toContainText(/^\d\d:\d\d: IC 443 \d\d° high, sun -\d\d°, moon down\. H-alpha 3 nm \d+ % of its best, sky 0\.\d+ e-\/s/);
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
    const [download] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name, exact: true }).click()]);
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
  await page.getByRole("option", { name: "Most H-alpha" }).click();
  await expect(page.getByTestId("block-1")).toHaveCount(0);
  await page.goto(`${NIGHT}&then=NGC+3031`);
  await expect(page.getByTestId("run-sheet").locator("tr")).toHaveCount(7);
  await expect(page.getByTestId("run-sheet")).toContainText("Move to NGC 3031");
  await axe(page);
  // The second target's blocks move like the first's, and leave in the files.
  const block = page.getByTestId("block-second-0");
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
  await page.goto(`${NIGHT}&mode=fixed`);
  await page.getByRole("button", { name: "overheads and list" }).click();
  await page.getByTestId("minutes-0").fill("120");
  await page.getByTestId("minutes-1").fill("90");
  await expect(page.getByTestId("block-0")).toHaveAttribute("aria-label", /H-alpha 3 nm, 18:35 to 20:35, 2\d subs/);
  const subs = async () => Number(/(\d+) subs/.exec((await page.getByTestId("block-0").getAttribute("aria-label")) ?? "")?.[1]);
  const before = await subs();
  await page.getByTestId("overhead-settle_s").fill("120");
  await expect.poll(subs).toBeLessThan(before);
  await axe(page);
  // The list and the overheads are in the address: a reload keeps them.
  const changed = await subs();
  await page.reload();
  await expect.poll(subs).toBe(changed);
  await page.getByRole("button", { name: "Keep the plan" }).click();
  await expect(page.getByText("2027-01-28 planned in IC 443")).toBeVisible();
  await page.goto("/campaign?id=ic-443-winter");
  await expect(page.getByTestId("nights")).toContainText("planned H-alpha 3 nm");
  await expect(page.getByRole("img", { name: /H-alpha 3 nm: 52 % of its goal/ })).toBeVisible();
  await page.getByRole("button", { name: "Take out 2027-01-28" }).click();
  await expect(page.getByTestId("nights")).not.toContainText("2027-01-28");
});

test("a site has a time zone and a horizon", async ({ strict: page }) => {
  await page.goto("/shelf?kind=site&id=heron-lake");
  await page.getByTestId("horizon").fill("0 10; 90 x");
  await expect(page.getByTestId("horizon")).toHaveAttribute("aria-invalid", "true");
  await page.getByTestId("horizon").fill("0 10; 90 35; 200 5");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await page.goto("/night?bench=heron-lake-ngc-2403&site=heron-lake&date=2027-01-28");
  await expect(page.getByTestId("night-summary")).toContainText("from Heron Lake");
  await page.goto("/shelf?kind=site&id=heron-lake");
  await expect(page.getByTestId("horizon")).toHaveValue("0 10; 90 35; 200 5");
  // By hand: a point more where a roof stands, dragged, and all cleared.
  const picture = page.getByRole("img", { name: /Horizon of trees and roofs, 3 points/ });
  const box = await picture.boundingBox();
  if (!box) throw new Error("no picture");
  await page.mouse.dblclick(box.x + box.width * 0.85, box.y + 40);
  await expect(page.getByTestId("horizon")).toHaveValue(/^0 10; 90 35; 200 5; 30\d \d\d$/);
  const point = await page.getByTestId("point-2").boundingBox();
  if (!point) throw new Error("no point");
  await page.mouse.move(point.x + point.width / 2, point.y + point.height / 2);
  await page.mouse.down();
  await page.mouse.move(point.x + point.width / 2, box.y + 20, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByTestId("horizon")).toHaveValue(/; 200 [78]\d; /);
  await page.getByTestId("clear-horizon").click();
  await expect(page.getByTestId("horizon")).toHaveValue("");
  await expect(page.getByRole("img", { name: "A free horizon" })).toBeVisible();
  // A zone that is none is refused beside its field, and nothing is lost.
  await page.getByTestId("zone").fill("Nowhere/Town");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByTestId("zone")).toHaveAttribute("aria-invalid", "true");
  await expect(page.getByText(/is no time zone of the IANA database/).first()).toBeVisible();
  await expect(page.getByTestId("zone")).toHaveValue("Nowhere/Town");
  await axe(page);
});

test("a campaign's goals fill when a night is recorded, and coordinates are pasted in any form", async ({ strict: page }) => {
  await page.goto("/campaign?id=ic-443-winter");
  await expect(page.getByRole("img", { name: /H-alpha 3 nm: 52 % of its goal/ })).toBeVisible();
  await expect(page.getByTestId("campaign-next")).toContainText("[O III] 3 nm next");
  await expect(page.getByTestId("campaign-forecast")).toContainText("nine runs in ten by");
  await axe(page);
  await page.getByTestId("paste-coordinates").fill("6h17m13s, +22d31m05s");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("framing")).toContainText("06h 17m 13.0s +22\u00b0 31\u2032 05\u2033");
  await page.getByTestId("paste-coordinates").fill("94.25 22.57");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("framing")).toContainText("94.25000");
  await page.goto(NIGHT);
  // What was really taken is asked for, with the plan's counts to begin with.
  await page.getByRole("button", { name: "Record as shot" }).click();
  const dialog = page.getByRole("dialog");
  await expect(dialog.getByTestId("taken-0")).toHaveValue(/^[1-9]\d+$/);
  const all = Number(await dialog.getByTestId("taken-0").inputValue());
  await axe(page);
  await dialog.getByRole("button", { name: "Record" }).click();
  await expect(page.getByText("2027-01-28 recorded in IC 443")).toBeVisible();
  await page.goto("/campaign?id=ic-443-winter");
  await expect(page.getByTestId("nights")).toContainText("2027-01-28");
  const crystal = page.getByRole("img", { name: /H-alpha 3 nm: \d+ % of its goal/ });
  const progress = async () => Number(/(\d+) %/.exec((await crystal.getAttribute("aria-label")) ?? "")?.[1]);
  await expect.poll(progress).toBeGreaterThan(79);
  const full = await progress();
  // Half of it was cloud: the row is edited, and counts half.
  await page.getByRole("button", { name: "Edit 2027-01-28" }).click();
  await expect(dialog.getByTestId("taken-0")).toHaveValue(String(all));
  await dialog.getByTestId("taken-0").fill(String(Math.round(all / 2)));
  await dialog.getByLabel("Note").fill("cloud from one on");
  await dialog.getByRole("button", { name: "Record" }).click();
  await expect(page.getByTestId("nights")).toContainText(`H-alpha 3 nm: ${Math.round(all / 2)} subs`);
  await expect(page.getByTestId("nights")).toContainText("cloud from one on");
  await expect.poll(progress).toBeLessThan(full - 10);
  // An evening counts once, also where it is typed in by hand.
  await page.getByTestId("add-night").click();
  await dialog.getByLabel("Evening of").fill("2027-01-28");
  await dialog.getByTestId("taken-1").fill("12");
  await dialog.getByRole("button", { name: "Record" }).click();
  await expect(dialog.getByRole("alert")).toContainText("is recorded already");
  await dialog.getByRole("button", { name: "Cancel" }).click();
  await page.getByRole("button", { name: "Take out 2027-01-28" }).click();
  await expect(page.getByTestId("nights")).not.toContainText("2027-01-28");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByTestId("nights")).toContainText("2027-01-28");
  await page.getByRole("button", { name: "Take out 2027-01-28" }).click();
  await expect(page.getByTestId("nights")).not.toContainText("2027-01-28");
  await page.keyboard.press("u");
  await expect(page.getByTestId("nights")).toContainText("2027-01-28");
  await page.getByRole("button", { name: "Take out 2027-01-28" }).click();
  await expect(page.getByTestId("nights")).not.toContainText("2027-01-28");
});

test("one night serves two campaigns, and counts once in each", async ({ strict: page }) => {
  type Stored = { id: string; revision: number; campaign: { nights: { date: string }[]; scenario: { target: { name: string; kind: string } } } };
  const list = async () => (await (await page.request.get("/api/v1/campaigns")).json()) as Stored[];
  const [first] = (await list()).filter((c) => c.id === "ic-443-winter");
  if (!first) throw new Error("no demo campaign");
  const scenario = { ...first.campaign.scenario, target: { ...first.campaign.scenario.target, name: "NGC 3031", kind: "galaxy_with_h_ii" } };
  const framing = { ra_deg: 148.9, dec_deg: 69.07, position_angle_deg: 0 };
  const made = await page.request.post("/api/v1/campaigns", { data: { ...first.campaign, title: "The other one", scenario, framing, nights: [] } });
  const { id } = (await made.json()) as Stored;
  await page.goto(`${NIGHT}&then=NGC+3031`);
  await expect(page.getByTestId("totals-second")).toBeVisible();
  const dialog = page.getByRole("dialog");
  await page.getByRole("button", { name: "Record as shot" }).click();
  await dialog.getByRole("button", { name: "Record" }).click();
  await expect(page.getByText("2027-01-28 recorded in IC 443")).toBeVisible();
  await expect(dialog).toContainText("What was taken for The other one");
  await dialog.getByRole("button", { name: "Record" }).click();
  await expect(page.getByText("2027-01-28 recorded in The other one")).toBeVisible();
  await page.getByRole("button", { name: "Record as shot" }).click();
  await dialog.getByRole("button", { name: "Record" }).click();
  await expect(dialog.getByRole("alert")).toContainText(/is recorded already in IC 443/);
  await page.keyboard.press("Escape");
  await page.keyboard.press("Escape");
  const after = await list();
  expect(after.find((c) => c.id === id)?.campaign.nights.map((n) => n.date)).toEqual(["2027-01-28"]);
  expect(after.find((c) => c.id === first.id)?.campaign.nights.filter((n) => n.date === "2027-01-28")).toHaveLength(1);
  await page.goto(`/campaign?id=${id}`);
  await expect(page.getByTestId("nights")).toContainText("2027-01-28");
  await page.request.delete(`/api/v1/campaigns/${id}`);
  await page.goto("/campaign?id=ic-443-winter");
  await page.getByRole("button", { name: "Take out 2027-01-28" }).click();
  await expect(page.getByTestId("nights")).not.toContainText("2027-01-28");
});

test("a campaign is begun from a comparison, deleted, and brought back", async ({ strict: page }) => {
  await page.goto("/campaign");
  await page.getByTestId("begin-from").click();
  await page.getByRole("option", { name: "NGC 7822 from Larch Lane", exact: true }).click();
  await page.getByTestId("begin-path").click();
  await page.getByRole("option", { name: "C Colour, dual band 7 nm" }).click();
  await page.getByRole("button", { name: "Begin", exact: true }).click();
  await expect(page.getByLabel("Title of the campaign")).toHaveValue("NGC 7822 campaign");
  await expect(page.getByText("C Colour, dual band 7 nm").first()).toBeVisible();
  // Both lines of a dual band are goals.
  await expect(page.getByRole("img", { name: /Dual band 7 nm, H-alpha: 0 % of its goal/ })).toBeVisible();
  await expect(page.getByRole("img", { name: /Dual band 7 nm, \[O III\]: 0 % of its goal/ })).toBeVisible();
  await page.getByTestId("add-night").click();
  await page.getByRole("dialog").getByTestId("taken-0").fill("60");
  await page.getByRole("dialog").getByRole("button", { name: "Record" }).click();
  await expect(page.getByRole("img", { name: /Dual band 7 nm, H-alpha: [1-9]\d? % of its goal/ })).toBeVisible();
  await expect(page.getByRole("img", { name: /Dual band 7 nm, \[O III\]: [1-9]\d? % of its goal/ })).toBeVisible();
  await page.getByRole("button", { name: "Delete this campaign" }).click();
  await expect(page.getByRole("button", { name: /^NGC 7822 campaign/ })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("button", { name: /^NGC 7822 campaign/ })).toBeVisible();
  await page.getByRole("button", { name: /^NGC 7822 campaign/ }).click();
  await page.getByRole("button", { name: "Delete this campaign" }).click();
});

test("targets say when they are up and what is worth shooting tonight; the foot says tonight", async ({ strict: page }) => {
  await page.goto("/targets?object=IC+443&list=tonight");
  await expect(page.getByTestId("tonight-list").locator("li")).toHaveCount(40);
  await expect(page.getByTestId("best-dates")).toContainText(/H-alpha \d\d-\d\d/);
  await page.getByTestId("span").click();
  await page.getByRole("option", { name: "A year" }).click();
  await expect(page.getByRole("img", { name: /over 365 nights/ })).toBeVisible();
  await expect(page.getByTestId("tonight")).toContainText("Tonight, Larch Lane");
  await axe(page);
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
  const blocks = await page.locator("[data-testid^=block-]").evaluateAll((all) => all.map((b) => b.getAttribute("aria-label") ?? "").filter((l) => l.startsWith("H-alpha")));
  expect(blocks).toHaveLength(1);
});
