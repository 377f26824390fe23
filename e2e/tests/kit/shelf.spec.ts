import { readFile } from "node:fs/promises";
import { test as plain } from "@playwright/test";
import { axe, expect, test } from "../fixtures";

const ANY_API = "**/api/v1/**";

plain("a shelf that cannot be saved keeps what was typed, over a look elsewhere and a reload", async ({ page }) => {
  await page.goto("/kit?kind=telescope&id=refractor-70");
  const aperture = page.getByLabel("Aperture");
  await aperture.fill("72");
  await page.route(ANY_API, (route) => (route.request().method() === "PUT" ? route.abort() : route.continue()));
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("alert")).toContainText("The server does not answer");
  await expect(aperture).toHaveValue("72");
  await page.unroute(ANY_API);
  await page.getByRole("button", { name: "120 mm f/7 refractor", exact: true }).click();
  await expect(aperture).toHaveValue("120");
  await expect(page.getByRole("listitem").filter({ hasText: "70 mm f/6 refractor" })).toContainText("unsaved");
  await page.reload();
  await page.getByRole("button", { name: "70 mm f/6 refractor", exact: true }).click();
  await expect(aperture).toHaveValue("72");
  await expect(page.getByText("Unsaved, kept in this browser")).toBeVisible();
  // Discarded, taken back, discarded again.
  await page.getByRole("button", { name: "Discard" }).click();
  await expect(aperture).toHaveValue("70");
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(aperture).toHaveValue("72");
  await page.getByRole("button", { name: "Discard" }).click();
  await page.reload();
  await expect(aperture).toHaveValue("70");
});

test("two tabs on the shelf: the second save is told, and mine becomes a thing of its own", async ({
  strict: page,
  context,
}) => {
  await page.goto("/kit?kind=filter&id=quad");
  const other = await context.newPage();
  await other.goto("/kit?kind=filter&id=quad");
  await other.getByLabel("Effective index").fill("1.95");
  await page.getByLabel("Effective index").fill("2.05");
  await other.getByRole("button", { name: "Save", exact: true }).click();
  await expect(other.getByRole("button", { name: "Save", exact: true })).toBeDisabled();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("dialog")).toContainText("Nothing was overwritten");
  await axe(page);
  await page.getByRole("button", { name: "Save mine as a copy" }).click();
  await expect(page.getByLabel("Name")).toHaveValue(/\(mine\)$/);
  await expect(page.getByLabel("Effective index")).toHaveValue("2.05");
  await page.goto("/kit?kind=filter&id=quad");
  await expect(page.getByLabel("Effective index")).toHaveValue("1.95");
});

test("a site has a time zone and a horizon", async ({ strict: page }) => {
  await page.goto("/kit?kind=site&id=heron-lake");
  await page.getByTestId("horizon").fill("0 10; 90 x");
  await expect(page.getByTestId("horizon")).toHaveAttribute("aria-invalid", "true");
  await page.getByTestId("horizon").fill("0 10; 90 35; 200 5");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await page.goto("/night?bench=heron-lake-ngc-2403&site=heron-lake&date=2027-01-28");
  await expect(page.getByTestId("night-summary")).toContainText("from Heron Lake");
  await page.goto("/kit?kind=site&id=heron-lake");
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
  // A town's glow likewise: typed, drawn, and kept.
  await page.getByTestId("glow").fill("0 0.5; 190 3");
  await expect(page.getByRole("img", { name: /Glow of towns, 2 points: 0 0.5; 190 3/ })).toBeVisible();
  await page.getByTestId("glow").fill("0 99");
  await expect(page.getByTestId("glow")).toHaveValue("0 99");
  await page.getByTestId("glow").fill("0 0.5; 190 3");
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

test("a curve from a spreadsheet is understood, taken, saved and exported", async ({ strict: page }) => {
  await page.goto("/kit?kind=filter&id=uhc");
  await page.getByRole("button", { name: "Copy Ultra-high contrast" }).click();
  await expect(page.getByLabel("Name", { exact: true })).toHaveValue("Ultra-high contrast (copy)");
  await page.getByLabel("Name", { exact: true }).fill("From a spectrometer");
  await page.getByTestId("curve-file").setInputFiles({
    name: "curve.csv",
    mimeType: "text/csv",
    buffer: Buffer.from("nm;T %\n490,5;1\n495;91,5\n505;92\n510;1\n"),
  });
  const reading = page.getByTestId("curve-reading");
  await expect(reading).toContainText("semicolons, decimal comma");
  await expect(reading).toContainText("values in per cent");
  await page.getByRole("button", { name: "Take this curve" }).click();
  await expect(page.getByText("imported from curve.csv")).toBeVisible();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("button", { name: "From a spectrometer", exact: true })).toBeVisible();
  await page.reload();
  await expect(page.getByText("imported from curve.csv")).toBeVisible();
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save the curve as ECSV" }).click();
  const text = await readFile(await (await waiting).path(), "utf8");
  expect(text).toContain("# %ECSV 1.0");
  expect(text).toContain("495 0.915");
});

test("a damaged curve is refused with its row and nothing is lost", async ({ strict: page }) => {
  await page.goto("/kit?kind=filter&id=sodium-notch");
  await page.getByRole("button", { name: "Paste" }).click();
  await page.getByPlaceholder(/480/).fill("480\t0.1\n490\tbright\n500\t0.2");
  await expect(page.getByTestId("curve-reading")).toContainText('row 2: "bright" is not a number');
  await expect(page.getByPlaceholder(/480/)).toHaveValue(/bright/);
});

test("a point is dragged, saved, and where it comes from is said", async ({ strict: page }) => {
  await page.goto("/kit?kind=filter&id=lum");
  const point = page.getByTestId("point-1");
  const box = await point.boundingBox();
  if (!box) throw new Error("no point");
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 6, box.y + 60, { steps: 5 });
  await page.mouse.up();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("Saved", { exact: true })).toBeVisible();
  await expect(page.getByText("typed", { exact: true })).toBeVisible();
});

test("gear in use is put away, other gear is deleted, and both come back", async ({ strict: page }) => {
  await page.goto("/kit?kind=telescope&id=lens-135");
  await page.getByRole("button", { name: "Delete 135 mm f/2.8 camera lens" }).click();
  await expect(page.getByText('Deleted "135 mm f/2.8 camera lens"')).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("button", { name: "135 mm f/2.8 camera lens", exact: true })).toBeVisible();
  await page.goto("/kit?kind=telescope&id=refractor-90");
  await page.getByRole("button", { name: "Delete 90 mm f/5.5 refractor" }).click();
  await expect(page.getByText(/put away instead of deleted/)).toBeVisible();
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(page.getByRole("button", { name: "90 mm f/5.5 refractor", exact: true })).toBeVisible();
});

test("a camera or a site with a wrong number is refused beside its field", async ({ strict: page }) => {
  await page.goto("/kit?kind=site&id=larch-lane");
  await page.getByLabel("LED 4000 K").fill("0.9");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("alert")).toContainText("lamps:");
  await expect(page.getByLabel("LED 4000 K")).toHaveValue("0.9");
});

test("no barriers that axe can find on an entry of the shelf, and on two beside each other", async ({
  strict: page,
}) => {
  for (const path of ["/kit?kind=filter&id=uhc&compare=dual-7,uhc", "/kit?kind=camera&id=colour-26"]) {
    await page.goto(path);
    await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
    await page.waitForLoadState("networkidle");
    await axe(page);
  }
});
