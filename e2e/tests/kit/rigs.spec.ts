import { readFile } from "node:fs/promises";
import { axe, expect, test } from "../fixtures";

test("a rig says what it is, follows its parts, and keeps what sits in its slots", async ({ strict: page }) => {
  await page.goto("/kit?kind=rig&id=reflector-colour");
  const summary = page.getByTestId("rig-summary");
  await expect(summary).toContainText("f/2.8");
  await expect(summary).toContainText("5360 = 3600 telescope and camera + 260 filters + 1500 the rest");
  await axe(page);
  // A filter goes into the empty slot: the rig's light paths follow once it is saved.
  await page.getByTestId("slot-2").click();
  await page.getByRole("option", { name: "[S II] and [O III] 6 nm" }).click();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(summary).toContainText("Dual band 7 nm + [S II] and [O III] 6 nm");
  // What sits in a rig is owned from then on.
  await page.goto("/kit?kind=filter");
  await expect(page.getByRole("list", { name: "Filters, mine" })).toContainText("[S II] and [O III] 6 nm");
  await page.goto("/kit?kind=rig&id=reflector-colour");
  await page.getByTestId("slot-2").click();
  await page.getByRole("option", { name: "empty" }).click();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(summary).not.toContainText("[S II]");
});

test("a thickness says how far the focus moves, and what back focus that makes", async ({ strict: page }) => {
  await page.goto("/kit?kind=filter&id=dual-7");
  await page.getByRole("button", { name: "+ Thickness" }).click();
  await page.getByLabel("Thickness").fill("3");
  const saved = page.waitForResponse((r) => r.request().method() === "PUT" && r.ok());
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await saved;
  await expect(page.getByRole("button", { name: "Save", exact: true })).toBeDisabled();
  await page.goto("/kit?kind=rig&id=reflector-colour");
  await expect(page.getByTestId("rig-focus")).toContainText("right to 9 um either way");
  await expect(page.getByTestId("rig-focus")).toContainText("1.00 mm away from the telescope");
  await expect(page.getByTestId("rig-focus")).toContainText("57.0 mm instead of 56.0 mm");
});

test("a rig goes to a file and comes back from it, by keyboard", async ({ strict: page }) => {
  await page.goto("/kit?kind=rig&id=refractor-mono");
  const down = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save Refractor, mono as a file" }).focus();
  await page.keyboard.press("Enter");
  const file = await (await down).path();
  const document = JSON.parse(await readFile(file, "utf8"));
  expect(document.format).toBe("salt-lamp-rig");
  document.name = "Lent to me";
  await page
    .getByLabel("A rig's file")
    .setInputFiles({ name: "rig.json", mimeType: "application/json", buffer: Buffer.from(JSON.stringify(document)) });
  await expect(page.getByRole("textbox", { name: "Name" })).toHaveValue("Lent to me");
  await expect(page.getByTestId("rig-summary")).toContainText("H-alpha, [O III] and [S II] 3 nm");
  // A file of something else says what is accepted.
  await page
    .getByLabel("A rig's file")
    .setInputFiles({ name: "x.json", mimeType: "application/json", buffer: Buffer.from('{"format":"other"}') });
  await expect(page.getByText(/salt-lamp-rig/)).toBeVisible();
  // Gone, and back by u; the usual one is told, and can be another.
  await page.getByRole("button", { name: "Delete Lent to me" }).click();
  await expect(page.getByRole("button", { name: "Lent to me" })).toHaveCount(0);
  await expect(page.getByText('Deleted "Lent to me"')).toBeVisible();
  await page.keyboard.press("u");
  await page.getByRole("button", { name: "Lent to me", exact: true }).click();
  await page.getByRole("button", { name: "Make it the usual" }).click();
  await expect(page.getByRole("button", { name: "The usual rig" })).toBeVisible();
  await page.getByRole("button", { name: "Refractor, mono", exact: true }).click();
  await page.getByRole("button", { name: "Make it the usual" }).click();
  await page.getByRole("button", { name: "Lent to me", exact: true }).click();
  await page.getByRole("button", { name: "Delete Lent to me" }).click();
});

test("what is copied keeps where its numbers come from", async ({ strict: page }) => {
  await page.goto("/kit?kind=filter&id=quad");
  const source = page.getByText("typical, from memory").first();
  await expect(source).toBeVisible();
  await page.getByRole("button", { name: "Add", exact: true }).click();
  await expect(page.getByRole("textbox", { name: "Name" })).toHaveValue(/\(new\)$/);
  await expect(page.getByText("typical, from memory").first()).toBeVisible();
  await expect(page.getByText("typed", { exact: true })).toHaveCount(0);
});
