import { axe, copyOf, expect, settled, test } from "../fixtures";

test("the first screen says what to do, why, and what else would bring", async ({ strict: page }) => {
  await page.goto("/tonight?date=2027-01-08");
  // A new moon: the campaign goes on.
  const choice = page.getByTestId("tonight-choice");
  await expect(choice).toContainText("Go on with IC 443, winter 2026-27");
  await expect(choice).toContainText(/from \d+ to \d+ % of its goals/);
  await expect(choice).toContainText(/then waits with \d+ % to go/);
  await expect(page.getByRole("region", { name: "Campaigns" })).toContainText(/\d\d:\d\d–\d\d:\d\d/);
  await axe(page);
  // Beside a full moon it waits.
  await page.getByLabel("Evening", { exact: true }).fill("2027-01-22");
  await expect(choice).not.toContainText("Go on with");
  await expect(page).toHaveURL(/date=2027-01-22/);
  await page.getByRole("button", { name: "Plan its night" }).click();
  await expect(page).toHaveURL(/night\?bench=.*date=2027-01-22/);
  await expect(page.getByTestId("block-0")).toBeVisible();
  await page.goBack();
  await page.getByRole("link", { name: /^See / }).click();
  await expect(page).toHaveURL(/targets\?object=/);
});

test("the wheel's filters make a path in one click, and its name follows its filter", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await page.getByRole("button", { name: "Add a path" }).click();
  await page.getByRole("menuitem", { name: "L, R, G, B", exact: true }).click();
  await expect(page.getByTestId("path-D").getByRole("textbox")).toHaveValue("Refractor, mono, L, R, G, B");
  await expect(page.getByTestId("snr-D")).toHaveText(/\d/);
  await page.getByRole("button", { name: "Add a path" }).click();
  await page.getByRole("menuitem", { name: "Dual band 7 nm", exact: true }).click();
  const name = page.getByTestId("path-E").getByRole("textbox");
  await expect(name).toHaveValue("Reflector, colour, Dual band 7 nm");
  await page.getByTestId("stage-E-filter").click();
  await page.getByTestId("filter-0").click();
  await page.getByRole("option", { name: "Dual band 3 nm" }).click();
  await expect(name).toHaveValue("Reflector, colour, Dual band 3 nm");
  await page.getByTestId("band-0-0-fwhm_nm").fill("4");
  await expect(name).toHaveValue("Reflector, colour, Dual band 4 nm");
});

test("from a target to a comparison of one's own light paths in two clicks", async ({ strict: page }) => {
  await page.goto("/targets?object=NGC+281");
  await page.getByRole("button", { name: "Take it to the bench" }).click();
  await expect(page).toHaveURL(/\/bench\//);
  await expect(page.getByTestId("path-A").getByRole("textbox")).toHaveValue(
    "Refractor, mono, H-alpha, [O III] and [S II] 3 nm",
  );
  await expect(page.getByTestId("path-B").getByRole("textbox")).toHaveValue(/L, R, G, B/);
  await expect(page.getByTestId("snr-A")).toHaveText(/\d/);
});

test("comparisons stand as cards with their verdict and their picture", async ({ strict: page }) => {
  await page.goto("/bench");
  const card = page.getByRole("listitem").filter({ hasText: "IC 443 from Larch Lane" }).first();
  await expect(card.getByTestId("card-words")).toContainText(/is first: .* in \d+ h/);
  const picture = card.locator("img");
  await expect
    .poll(async () => picture.evaluate((i) => (i as HTMLImageElement).complete && (i as HTMLImageElement).naturalWidth))
    .toBe(96);
});

test("a new comparison is begun by keyboard from rigs, a target and a site", async ({ strict: page }) => {
  await page.goto("/bench");
  await page.getByRole("button", { name: "New", exact: true }).focus();
  await page.keyboard.press("Enter");
  await page.getByLabel("Target").fill("NGC 2841");
  await page.getByRole("button", { name: /^NGC 2841/ }).focus();
  await page.keyboard.press("Enter");
  const colour = page.getByRole("checkbox", { name: /Reflector, colour/ });
  await colour.focus();
  await page.keyboard.press("Space");
  await axe(page);
  await page.getByRole("button", { name: "Compare", exact: true }).focus();
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/\/bench\//);
  // A galaxy: no line filter comes unasked.
  await expect(page.getByTestId("path-A").getByRole("textbox")).toHaveValue("Refractor, mono, L, R, G, B");
  await expect(page.getByTestId("path-B").getByRole("textbox")).toHaveValue("Reflector, colour, no filter");
  await expect(page.getByTestId("path-C")).toHaveCount(0);
});

test("the palette finds targets, comparisons and the kit, and nothing that does not match", async ({
  strict: page,
}) => {
  await page.goto("/tonight");
  // Keys are heard once the page is there.
  await settled(page);
  await page.keyboard.press("Control+K");
  await expect(page.getByRole("dialog").getByRole("combobox")).toBeFocused();
  await page.keyboard.type("pacman");
  await expect(page.getByRole("option", { name: /NGC 281/ })).toBeVisible();
  await page.keyboard.press("Control+A");
  await page.keyboard.type("dual band 3");
  const option = page.getByRole("option", { name: /Dual band 3 nm/ });
  await expect(option).toContainText("on offer");
  await option.click();
  await expect(page).toHaveURL(/\/kit\?kind=filter&id=dual-3/);
  await page.keyboard.press("Control+K");
  await page.keyboard.type("qqqq");
  await expect(page.getByText("Nothing by that name.")).toBeVisible();
});

test("a date fills the scene from its night, and tonight's moon is one click away", async ({ strict: page }) => {
  await page.goto("/bench/larch-lane-ic-443");
  await expect(page.getByTestId("moon-off")).toContainText(/Tonight, Larch Lane/);
  await page.getByRole("button", { name: "of a date" }).click();
  await page.getByLabel(/^Evening at Larch Lane/).fill("2027-01-21");
  await expect(page.getByTestId("date-words")).toContainText(/IC 443 stands highest at \d\d:\d\d, 66° up/);
  await page.getByRole("button", { name: "Take this night" }).click();
  await expect(page.getByRole("switch", { name: "Moon in the sky" })).toBeChecked();
  await expect(page.getByTestId("stage-A-air")).toContainText("66° high");
  await page.keyboard.press("u");
  await expect(page.getByRole("switch", { name: "Moon in the sky" })).not.toBeChecked();
});
