import { axe, copyOf, expect, test } from "./fixtures";

test("letters choose in an open list, and single keys can be switched off", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  const help = page.getByRole("dialog", { name: "Keyboard" });
  // In an open list a key belongs to the list.
  await page.getByTestId("lamps").click();
  await expect(page.getByRole("listbox")).toBeVisible();
  await page.keyboard.press("?");
  await page.keyboard.press("g");
  await page.keyboard.press("s");
  await expect(page.getByRole("listbox")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("listbox")).toBeHidden();
  await expect(help).toBeHidden();
  await expect(page).toHaveURL(new RegExp(`/bench/${id}`));
  // The palette offers what holds the words, and nothing that only holds their letters.
  await page.keyboard.press("Control+k");
  await page.getByPlaceholder("What do you want to do?").fill("theme");
  await expect(page.getByRole("option")).toHaveCount(3);
  await page.getByPlaceholder("What do you want to do?").fill("tm");
  await expect(page.getByRole("option")).toHaveCount(0);
  await page.keyboard.press("Escape");
  // Switched off, and still so after a reload.
  await page.locator("main").focus();
  await page.keyboard.press("?");
  await help.getByRole("checkbox").uncheck();
  await axe(page);
  await page.keyboard.press("Escape");
  await page.reload();
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
  await page.locator("main").focus();
  await page.keyboard.press("g");
  await page.keyboard.press("s");
  await page.keyboard.press("?");
  await expect(help).toBeHidden();
  await expect(page).toHaveURL(new RegExp(`/bench/${id}`));
  await page.getByRole("button", { name: /^Keys/ }).click();
  await help.getByRole("checkbox").check();
  await page.keyboard.press("Escape");
  await page.locator("main").focus();
  await page.keyboard.press("g");
  await page.keyboard.press("s");
  await expect(page).toHaveURL(/\/shelf/);
});

test("a test frame is empty at first, is told against the sky, and its sky can be taken", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?row=0&chart=sub`);
  await page.getByTestId("stage-A-sub").click();
  await page.getByTestId("test-0-open").click();
  await expect(page.getByTestId("test-0-s")).toHaveValue("");
  await expect(page.getByTestId("test-0-adu")).toHaveValue("");
  await page.getByTestId("test-0-s").fill("300");
  await expect(page.getByTestId("test-frame-told")).toBeHidden();
  await page.getByTestId("test-0-adu").fill("1500");
  const told = page.getByTestId("test-frame-told");
  await expect(told).toContainText(/mag brighter than the one assumed.*mix two skies/);
  await told.getByRole("button").click();
  await expect(told).toContainText("agrees");
});

test("a galaxy is judged by its continuum first, and its scene keeps the site", async ({ strict: page }) => {
  await page.goto("/targets?object=NGC+2403");
  const site = page.getByTestId("when-site");
  await site.click();
  const option = page.getByRole("option").nth(1);
  const name = (await option.textContent()) ?? "";
  await option.click();
  await expect(site).toHaveText(name);
  await page.getByRole("button", { name: "Take it to the bench" }).click();
  await expect(page).toHaveURL(/\/bench\//);
  await expect(page.getByRole("radio", { name: "Continuum" })).toBeChecked();
  const id = new URL(page.url()).pathname.split("/").at(-1);
  const stored = (await (await page.request.get(`/api/v1/scenarios/${id}`)).json()) as { scenario: { sky: { site: string } } };
  expect(stored.scenario.sky.site).toBe(name);
});

test("a camera without cooling follows the air, and a rig's price follows its parts", async ({ strict: page }) => {
  const library = (await (await page.request.get("/api/v1/library")).json()) as {
    cameras: { price: number | null; sensor: { name: string; rise_above_ambient_k: number | null } }[];
  };
  const uncooled = library.cameras.find((c) => c.sensor.rise_above_ambient_k !== null);
  const id = await copyOf(page, "larch-lane-ic-443");
  const { scenario } = (await (await page.request.get(`/api/v1/scenarios/${id}`)).json()) as {
    scenario: { contenders: { sensor: { name: string } }[] };
  };
  const was = library.cameras.find((c) => c.sensor.name === scenario.contenders[0]?.sensor.name);
  if (!uncooled || !was) throw new Error("no camera without cooling on the shelf, or not the rig's own");
  await page.goto(`/bench/${id}?row=0`);
  await page.getByTestId("stage-A-optics").click();
  const before = Number(await page.getByTestId("rig-price").inputValue());
  await page.keyboard.press("Escape");
  await expect(page.getByTestId("rig-price")).toBeHidden();
  await page.getByTestId("stage-A-sensor").click();
  await expect(page.getByTestId("sensor-temperature")).toBeVisible();
  await page.getByTestId("camera").click();
  await page.getByRole("option", { name: uncooled.sensor.name }).click();
  await expect(page.getByTestId("sensor-follows-air")).toContainText(`+ ${uncooled.sensor.rise_above_ambient_k} K`);
  await expect(page.getByTestId("sensor-temperature")).toBeHidden();
  await page.keyboard.press("Escape");
  await expect(page.getByTestId("sensor-follows-air")).toBeHidden();
  await page.getByTestId("stage-A-optics").click();
  // Whatever else was counted in stays: the price moves by the difference of the two cameras.
  expect(Number(await page.getByTestId("rig-price").inputValue())).toBe(before + (uncooled.price ?? Number.NaN) - (was.price ?? Number.NaN));
});

test("a campaign has a site of its own, whatever was chosen before", async ({ strict: page }) => {
  const shelf = (await (await page.request.get("/api/v1/shelf")).json()) as { id: string; entry: { name: string; thing: { kind: string } } }[];
  const campaigns = (await (await page.request.get("/api/v1/campaigns")).json()) as { campaign: { title: string; site: string } }[];
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
