import { axe, expect, test } from "../fixtures";

/** A server with an empty store: what a new user finds. */
test.use({ baseURL: process.env.SALT_LAMP_EMPTY_URL ?? "http://127.0.0.1:7374" });

test("nobody else's light paths come unasked: a comparison begins with a rig of one's own", async ({
  strict: page,
}) => {
  await page.goto("/targets?object=NGC+281");
  await page.getByRole("button", { name: "Take it to the bench" }).click();
  await expect(page).toHaveURL(/\/kit$/);
  await expect(page.getByText("A rig is a telescope, a camera and the filters in their slots.")).toBeVisible();
});

test("every step can be passed over", async ({ strict: page }) => {
  await page.goto("/tonight");
  await expect(page.getByTestId("first-run")).toBeVisible();
  for (const step of ["Latitude, north +", "Telescope, the nearest"]) {
    await expect(page.getByLabel(step)).toBeVisible();
    await page.getByRole("button", { name: "Later" }).click();
  }
  await expect(page.getByLabel("Find a target")).toBeVisible();
  // Without a rig nothing can be compared yet, and the page says so.
  await expect(page.getByRole("button", { name: /^Compare my light paths on/ }).first()).toBeDisabled();
  await expect(page.getByText(/Without a rig there is/)).toBeVisible();
});

test("a new user comes from an empty store to a comparison of own light paths in a dozen clicks", async ({
  strict: page,
}) => {
  let [clicks, fields] = [0, 0];
  const click = async (role: "button" | "combobox" | "option", name: string | RegExp) => {
    clicks += 1;
    await page.getByRole(role, { name }).first().click();
  };
  const type = async (label: string, text: string) => {
    fields += 1;
    await page.getByLabel(label).fill(text);
  };
  await page.goto("/");
  await expect(page.getByTestId("first-run")).toBeVisible();
  // Nobody else's site, rig or comparison stands there unasked.
  await expect(page.getByText("Larch Lane")).toHaveCount(0);
  await axe(page);
  await type("Latitude, north +", "46,8");
  await type("Longitude, east +", "-71.2");
  await click("combobox", "How dark, as a Bortle class");
  await click("option", /Class 5/);
  await click("button", "Use this site");
  await expect(page.getByText("The usual").or(page.getByLabel("Telescope, the nearest"))).toBeVisible();
  await click("combobox", "Camera, the nearest");
  await click("option", /26 MP colour/);
  await click("button", "Use this rig");
  await type("Find a target", "rosette");
  await click("button", /Compare my light paths on NGC 22/);
  await expect(page).toHaveURL(/\/bench\//);
  await expect(page.getByTestId("path-A")).toContainText("Dual band 7 nm");
  await expect(page.getByTestId("path-B")).toContainText("UV-IR cut");
  await expect(page.getByTestId("verdicts")).toContainText("as good");
  expect(clicks).toBeLessThanOrEqual(12);
  expect(fields).toBeLessThanOrEqual(4);
  // Left untouched, it is in no list.
  await expect(page.getByTestId("save-state")).toContainText("Begun, not kept yet");
  await page.goto("/bench");
  await expect(page.getByRole("heading", { name: "Nothing here yet." })).toBeVisible();
  await page.goBack();
  await page.getByRole("switch", { name: "Moon in the sky" }).click();
  await expect(page.getByTestId("save-state")).toContainText("Unsaved");
  await page.goto("/bench");
  await expect(page.getByTestId("card-words")).toHaveCount(1);
});
