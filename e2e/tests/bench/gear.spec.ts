import { axe, copyOf, expect, number, settled, test } from "../fixtures";

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
  // The same frame may mean another gain; here it is the sky that is taken.
  await expect(told.getByRole("button", { name: /as the gain$/ })).toBeVisible();
  await told.getByRole("button", { name: /as the sky there$/ }).click();
  await expect(told).toContainText("agrees");
});

test("a galaxy is judged by its continuum first, and its scene keeps the site", async ({ strict: page }) => {
  await page.goto("/targets?object=NGC+2403");
  // What stands above it comes in and moves it down.
  await settled(page);
  const site = page.getByTestId("when-site");
  await site.click();
  const option = page.getByRole("option").nth(1);
  const name = (await option.textContent()) ?? "";
  await option.click();
  await expect(site).toHaveText(name);
  await page.getByRole("button", { name: "Take it to the bench" }).click();
  await expect(page).toHaveURL(/\/bench\//);
  await expect(page.getByRole("radio", { name: "continuum", exact: true })).toBeChecked();
  const id = new URL(page.url()).pathname.split("/").at(-1);
  const stored = (await (await page.request.get(`/api/v1/scenarios/${id}`)).json()) as {
    scenario: { sky: { site: string } };
  };
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
  await expect(page.getByTestId("dark-current")).toContainText(/e-\/s in a pixel at \d+\.\d °C: \d+(\.\d)? % of/);
  await page.keyboard.press("Escape");
  await expect(page.getByTestId("sensor-follows-air")).toBeHidden();
  await page.getByTestId("stage-A-optics").click();
  // Whatever else was counted in stays: the price moves by the difference of the two cameras.
  expect(Number(await page.getByTestId("rig-price").inputValue())).toBe(
    before + (uncooled.price ?? Number.NaN) - (was.price ?? Number.NaN),
  );
});

test("the ranking puts a filter into the path, and the spectrum and the best band answer for it", async ({
  strict: page,
}) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?row=1&chart=filters`);
  // What is owned stands before what could be bought, each with its place among all.
  await expect(page.getByRole("list", { name: "Mine, and none, fastest first" })).toContainText("Dual band 7 nm");
  const first = page.getByRole("list", { name: "To buy, fastest first" }).getByRole("listitem").first();
  await expect(first).toContainText("Keeps");
  const before = number(await page.getByTestId("snr-B").textContent());
  // The reason opens where it is cut off.
  await first.getByRole("button", { name: /^Why/ }).click();
  await expect(first.getByRole("button", { name: /^Why/ })).toHaveAttribute("aria-expanded", "true");
  await first.getByRole("button", { name: /^Use/ }).click();
  await expect.poll(async () => number(await page.getByTestId("snr-B").textContent())).toBeGreaterThan(before);
  await page.getByRole("tab", { name: "Spectrum" }).click();
  await expect(page.getByRole("img", { name: /Filter, sensor, sky and target lines of path B/ })).toBeVisible();
  await page.getByRole("button", { name: "H-alpha, [S II]" }).click();
  await expect(page.getByText("H-alpha 656.3")).toBeVisible();
  await axe(page);
  await page.getByRole("tab", { name: "Bandwidth" }).click();
  await expect(page.getByText(/the best band for H-alpha \+ \[N II\] under this sky/)).toBeVisible();
  await axe(page);
  // The same over the centre of the band: kept in the address, and in the table.
  await page.getByTestId("band-against").click();
  await page.getByRole("option", { name: "Its centre" }).click();
  await expect(page.getByTestId("band-surface-centre")).toBeVisible();
  await page.reload();
  await expect(page.getByTestId("band-surface-centre")).toBeVisible();
  const chart = page.getByRole("region", { name: /Bandwidth for H-alpha \+ \[N II\]/ });
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

test("a mount that stands still limits the sub, and pixels are put together", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?row=0&edit=0.optics`);
  await page.getByTestId("following").click();
  await page.getByRole("option", { name: "stands still" }).click();
  await page.getByTestId("place-from-catalogue").click();
  await expect(page.getByTestId("target-place")).toContainText("06h 16m 37.4s");
  await expect(page.getByText(/On this mount stars trail by 1 px in 0\.11 s\./)).toBeVisible();
  await expect(page.getByTestId("exit-pupil")).toHaveValue("0");
  await page.getByTestId("following").click();
  await page.getByRole("option", { name: "turns with the sky" }).click();
  await expect(page.getByText(/On this mount/)).toBeHidden();
  await page.keyboard.press("Escape");
  await page.getByTestId("stage-A-sub").click();
  await page.getByTestId("binning-0").click();
  await page.getByRole("option", { name: "2 × 2" }).click();
  await page.getByTestId("dither-every").click();
  await page.getByRole("option", { name: "after every 3 subs" }).click();
  await page.getByTestId("dither-cost").fill("20");
  await axe(page);
  await page.keyboard.press("Escape");
  await page.getByTestId("verdicts").getByRole("button", { name: "Why: Sub" }).click();
  await expect(page.getByText(/2 x 2 pixels put together are 3\.1" wide/)).toBeVisible();
  await expect(page.getByText(/Moving the field after every 3 subs takes/).first()).toBeVisible();
});

test("where the target stands says what lies before it", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?row=0&edit=0.target`);
  const natural = async () =>
    Number(/natural (\d+\.\d+)/.exec((await page.locator("footer").textContent()) ?? "")?.[1]);
  await expect.poll(natural).toBeGreaterThan(21.8);
  await page.getByTestId("target-coordinates").fill("18 00 00 +66 33");
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("target-place")).toContainText("18h 00m 00.0s");
  // At the ecliptic's pole, 30 degrees from the Milky Way, next to nothing is added.
  await expect.poll(natural).toBeGreaterThan(21.8);
  await page.getByRole("button", { name: "Forget" }).click();
  await page.getByTestId("place-from-catalogue").click();
  await expect.poll(natural).toBeLessThan(21.4);
  await axe(page);
});
