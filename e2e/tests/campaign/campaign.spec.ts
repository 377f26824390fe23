import { axe, expect, test } from "../fixtures";

const NIGHT = "/night?campaign=ic-443-winter&date=2027-01-28";

test("a campaign has a site of its own, whatever was chosen before", async ({ strict: page }) => {
  const shelf = (await (await page.request.get("/api/v1/shelf")).json()) as {
    id: string;
    entry: { name: string; thing: { kind: string } };
  }[];
  const campaigns = (await (await page.request.get("/api/v1/campaigns")).json()) as {
    campaign: { title: string; site: string };
  }[];
  const own = campaigns.find((c) => c.campaign.title.includes("IC 443"))?.campaign;
  const sites = shelf.filter((e) => e.entry.thing.kind === "site");
  const other = sites.find((s) => s.id !== own?.site);
  if (!own || !other) throw new Error("no campaign, or no second site");
  await page.goto(`/night?bench=larch-lane-ic-443&site=${other.id}`);
  await expect(page.getByTestId("night-site")).toHaveText(other.entry.name);
  await page.getByRole("combobox", { name: "Campaign or comparison" }).click();
  await page.getByRole("option", { name: own.title }).click();
  await expect(page.getByTestId("night-site")).toHaveText(sites.find((s) => s.id === own.site)?.entry.name ?? "");
  await expect(page).not.toHaveURL(/site=/);
});

test("a campaign's goals fill when a night is recorded, and coordinates are pasted in any form", async ({
  strict: page,
}) => {
  await page.goto("/campaign?id=ic-443-winter");
  await expect(page.getByRole("img", { name: /H-alpha 3 nm: \d\d % of its goal/ })).toBeVisible();
  await expect(page.getByTestId("campaign-next")).toContainText("[O III] 3 nm next");
  await expect(page.getByTestId("campaign-forecast")).toContainText("eight runs in ten end between");
  await axe(page);
  await page.getByTestId("paste-coordinates").fill("6h17m13s, +22d31m05s");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("framing")).toContainText("06h 17m 13.0s +22\u00b0 31\u2032 05\u2033");
  await page.getByTestId("paste-coordinates").fill("94.25 22.57");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("framing")).toContainText("94.25000");
  // A frame's whole header brings the angle with it.
  await page.getByTestId("paste-coordinates").evaluate((field) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData("text", "SIMPLE  = T\nOBJCTRA = '06 17 13'\nOBJCTDEC= '+22 31 05'\nPOSANGLE= 33.5\nEND");
    field.dispatchEvent(new ClipboardEvent("paste", { clipboardData, bubbles: true, cancelable: true }));
  });
  await expect(page.getByTestId("framing")).toContainText("06h 17m 13.0s");
  await expect(page.getByLabel("Position angle")).toHaveValue("33.5");
  await page.goto(NIGHT);
  // What was really taken is asked for, with the plan's counts to begin with.
  await page.getByRole("button", { name: "Record as shot" }).click();
  const dialog = page.getByRole("dialog");
  const blocks = dialog.getByTestId("taken-blocks").locator("tbody tr");
  const ofHa = blocks.filter({ hasText: "H-alpha" });
  await expect(ofHa.first()).toBeVisible();
  const kept = ofHa.locator("[data-testid^=kept-]");
  const counts = async () => await kept.evaluateAll((all) => all.map((i) => Number((i as HTMLInputElement).value)));
  const all = (await counts()).reduce((a, b) => a + b, 0);
  expect(all).toBeGreaterThan(10);
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
  await expect.poll(async () => (await counts()).reduce((a, b) => a + b, 0)).toBe(all);
  // What cloud took is no longer kept, and stands with the night beside its note.
  const [most = 0] = await counts();
  const cloud = Math.round(most / 2);
  await ofHa.first().locator("[data-testid^=lost-]").fill(String(cloud));
  await expect(kept.first()).toHaveValue(String(most - cloud));
  await ofHa
    .first()
    .getByRole("textbox", { name: /^Note to block/ })
    .fill("haze");
  await dialog.getByLabel("Note", { exact: true }).fill("cloud from one on");
  await dialog.getByRole("button", { name: "Record" }).click();
  await expect(page.getByTestId("nights")).toContainText(`H-alpha 3 nm: ${all - cloud} subs`);
  await expect(page.getByTestId("nights")).toContainText(`H-alpha 3 nm: ${cloud} subs lost to cloud, haze`);
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
  type Stored = {
    id: string;
    revision: number;
    campaign: { nights: { date: string }[]; scenario: { target: { name: string; kind: string } } };
  };
  const list = async () => (await (await page.request.get("/api/v1/campaigns")).json()) as Stored[];
  const [first] = (await list()).filter((c) => c.id === "ic-443-winter");
  if (!first) throw new Error("no demo campaign");
  const scenario = {
    ...first.campaign.scenario,
    target: { ...first.campaign.scenario.target, name: "NGC 3031", kind: "galaxy_with_h_ii" },
  };
  const framing = { ra_deg: 148.9, dec_deg: 69.07, position_angle_deg: 0 };
  const made = await page.request.post("/api/v1/campaigns", {
    data: { ...first.campaign, title: "The other one", scenario, framing, nights: [] },
  });
  const { id } = (await made.json()) as Stored;
  await page.goto(`${NIGHT}&then=${encodeURIComponent(`c:${id}|sinks`)}`);
  await expect(page.getByTestId("totals-2")).toBeVisible();
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

test("frames of two rigs count in one campaign, also on one evening", async ({ strict: page }) => {
  await page.goto("/campaign?id=ic-443-winter");
  await expect(page.getByTestId("path-0")).toBeDisabled();
  await page.getByTestId("path-1").click();
  await expect(page.getByTestId("path-1")).toBeChecked();
  await axe(page);
  await page.goto(NIGHT);
  await page.getByTestId("add-target").click();
  await page.getByRole("button", { name: "IC 443 through B Colour, dual band 7 nm, at once" }).click();
  await expect(page.getByTestId("block-2-0")).toHaveAttribute("aria-label", /^IC 443, Dual band 7 nm/);
  const dialog = page.getByRole("dialog");
  await page.getByRole("button", { name: "Record as shot" }).click();
  await dialog.getByRole("button", { name: "Record" }).click();
  await expect(dialog).toContainText("Dual band 7 nm");
  await dialog.getByRole("button", { name: "Record" }).click();
  await expect(dialog).toHaveCount(0);
  await page.goto("/campaign?id=ic-443-winter");
  const nights = page.getByTestId("nights").locator("tr").filter({ hasText: "2027-01-28" });
  await expect(nights).toHaveCount(2);
  await expect(nights.filter({ hasText: "Dual band 7 nm" })).toContainText("B Dual band 7 nm: ");
  // A path that has brought frames stays.
  await expect(page.getByTestId("path-1")).toBeDisabled();
  for (let left = 2; left > 0; left--) {
    await page.getByRole("button", { name: "Take out 2027-01-28" }).first().click();
    await expect(nights).toHaveCount(left - 1);
  }
  await page.getByTestId("path-1").click();
  await expect(page.getByTestId("path-1")).not.toBeChecked();
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
  await expect(page.getByRole("img", { name: /Dual band 7 nm, H-alpha \+ \[N II\]: 0 % of its goal/ })).toBeVisible();
  await expect(page.getByRole("img", { name: /Dual band 7 nm, \[O III\]: 0 % of its goal/ })).toBeVisible();
  await page.getByTestId("add-night").click();
  await page.getByRole("dialog").getByTestId("taken-0").fill("15");
  await page.getByRole("dialog").getByRole("button", { name: "Record" }).click();
  await expect(
    page.getByRole("img", { name: /Dual band 7 nm, H-alpha \+ \[N II\]: [1-9]\d? % of its goal/ }),
  ).toBeVisible();
  await expect(page.getByRole("img", { name: /Dual band 7 nm, \[O III\]: [1-9]\d? % of its goal/ })).toBeVisible();
  await page.getByRole("button", { name: "Delete this campaign" }).click();
  await expect(page.getByRole("button", { name: /^NGC 7822 campaign/ })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("button", { name: /^NGC 7822 campaign/ })).toBeVisible();
  await page.getByRole("button", { name: /^NGC 7822 campaign/ }).click();
  await page.getByRole("button", { name: "Delete this campaign" }).click();
});
