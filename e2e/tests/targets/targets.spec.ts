import { axe, expect, test } from "../fixtures";

test("what a target emits is remembered before it is kept, and going back to the catalogue's is undone", async ({
  strict: page,
}) => {
  await page.goto("/targets?object=NGC+281");
  const ha = page.getByLabel("H-alpha", { exact: true });
  const catalogued = await ha.inputValue();
  await ha.fill("77");
  await page.goto("/targets?object=NGC+7635");
  await expect(ha).not.toHaveValue("77");
  await page.goto("/targets?object=NGC+281");
  await expect(ha).toHaveValue("77");
  await page.getByRole("button", { name: "Keep for this object" }).click();
  await expect(page.getByText("Your values.")).toBeVisible();
  await page.getByRole("button", { name: "Back to the catalogue's" }).click();
  await expect(ha).toHaveValue(catalogued);
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(ha).toHaveValue("77");
  await page.getByRole("button", { name: "Back to the catalogue's" }).click();
  await expect(ha).toHaveValue(catalogued);
});

test("targets say when they are up and what is worth shooting tonight; the foot says tonight", async ({
  strict: page,
}) => {
  // An evening on which the moon stands nowhere near it.
  await page.clock.setFixedTime(new Date("2027-01-10T22:00:00Z"));
  await page.goto("/targets?object=IC+443&list=tonight");
  await expect(page.getByTestId("tonight-list").locator("li")).toHaveCount(40);
  await expect(page.getByTestId("best-dates")).toContainText(/H-alpha \+ \[N II\] \d\d-\d\d/);
  // What a campaign shoots already can be left out.
  await expect(page.getByTestId("tonight-list")).toContainText("IC 443");
  const isNew = page.getByLabel("Leave out what my campaigns shoot");
  await isNew.click();
  await expect(isNew).toBeChecked();
  await expect(page.getByTestId("tonight-list")).not.toContainText("IC 443");
  await expect(page.getByTestId("tonight-list").locator("li")).toHaveCount(40);
  await page.getByTestId("span").click();
  await page.getByRole("option", { name: "A year" }).click();
  await expect(page.getByRole("img", { name: /over 365 nights/ })).toBeVisible();
  await expect(page.getByTestId("tonight")).toContainText("Tonight, Larch Lane");
  await axe(page);
});

test("targets are found, edited, framed and taken to the bench", async ({ strict: page }) => {
  await page.goto("/bench");
  await expect(page.getByRole("heading", { name: "Comparisons" })).toBeVisible();
  await page.keyboard.press("g");
  await page.keyboard.press("t");
  await expect(page).toHaveURL(/targets/);
  await page.getByLabel("Find a target by name").fill("ngc7822");
  await expect(page.getByRole("heading", { name: /NGC 7822/ })).toBeVisible();
  await expect(page.getByText(/^One panel/).first()).toBeVisible();
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

test("objects are found as people say, number and misspell them", async ({ strict: page }) => {
  await page.goto("/targets");
  const find = page.getByLabel("Find a target by name");
  for (const [typed, heading] of [
    ["Heart", /^IC 1805 Heart Nebula/],
    ["Sh2-101", /^Sh2-101 Tulip Nebula/],
    ["vdB 142", /^vdB 142 Elephant's Trunk/],
    ["LDN 1251", /^LDN 1251/],
  ] as const) {
    await find.fill(typed);
    await expect(page.getByRole("heading", { level: 2, name: heading })).toBeVisible();
  }
  await expect(page.getByTestId("emission-words")).toContainText("good to a factor of three");
  await find.fill("rosetta");
  await expect(page.getByText("No such name; these are called alike.")).toBeVisible();
  await expect(page.getByRole("heading", { level: 2, name: /^NGC 2237 Rosette/ })).toBeVisible();
  await expect(page.getByTestId("emission-words")).toContainText("good to a factor of two");
  // What nobody knows is said, and no brightness class stands for more than it is.
  await find.fill("LBN 5");
  await expect(page.getByTestId("emission-words")).toContainText("nobody here knows");
  await find.fill("Sh2-173");
  await find.fill("Sh2-259");
  await expect(page.getByTestId("emission-words")).toContainText(/brightness class, \d of 3/);
  await axe(page);
});

test("the real stars stand in the field: which halo and clip, and the frame moves off them", async ({
  strict: page,
}) => {
  await page.goto("/targets?object=IC+1318");
  const words = page.getByTestId("field-stars");
  await expect(words).toContainText("Sadr of V 2.2");
  await expect(words).toContainText(/stars clip \(from V \d+\.\d\) in 300 s/);
  await expect(page.getByRole("img", { name: /IC 1318.* with \d+ stars/ })).toContainText("Sadr 2.2");
  // Turned by the slider, moved by its buttons and by drag; the address keeps both.
  await page.getByTestId("camera-angle").getByRole("slider").focus();
  await page.keyboard.press("ArrowRight");
  await expect(page).toHaveURL(/angle=1\b/);
  const field = page.getByRole("img", { name: /IC 1318, / });
  const box = await field.boundingBox();
  if (!box) throw new Error("no drawing");
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height * 0.05, { steps: 6 });
  await page.mouse.up();
  await expect(page).toHaveURL(/north=\d/);
  const moved = Number(new URL(page.url()).searchParams.get("north"));
  expect(moved).toBeGreaterThan(30);
  await page.getByRole("button", { name: "5′ north" }).click();
  await expect(page).toHaveURL(new RegExp(`north=${moved + 5}`));
  await expect(page.getByTestId("framing")).toContainText("turned 1°");
  // The words on stars beneath may be settling while it is pressed.
  await expect(async () => {
    await page.getByRole("button", { name: "Lay it best" }).click();
    await expect(page).not.toHaveURL(/north=/, { timeout: 2000 });
  }).toPass();
  await axe(page);
});
