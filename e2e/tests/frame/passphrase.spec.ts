import { test as base, expect, type Page } from "@playwright/test";
import { axe, THEMES } from "../fixtures";

/** A server that wants a passphrase and stands beneath a path. */
const GUARDED = process.env.SALT_LAMP_GUARDED_URL ?? "http://127.0.0.1:7403/lamp";
const WORDS = "nine moons over the lake";
const test = base.extend({ baseURL: `${GUARDED}/` });

async function signIn(page: Page) {
  await page.getByLabel("Passphrase", { exact: true }).fill(WORDS);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toHaveCount(0);
}

test("a stranger is asked for the passphrase, and gets where he was going", async ({ page }) => {
  await page.goto("night?date=2027-01-28");
  const dialog = page.getByRole("dialog", { name: "Salt Lamp" });
  await expect(dialog).toBeVisible();
  await page.getByLabel("Passphrase", { exact: true }).fill("not this one at all");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("alert")).toContainText("That is not the passphrase.");
  await page.keyboard.press("Escape");
  await expect(dialog).toBeVisible();
  await signIn(page);
  // The view that was asked for, beneath the path.
  await expect(page).toHaveURL(/\/lamp\/night\?date=2027-01-28/);
  await expect(page.getByTestId("block-0")).toBeVisible();
  await page.reload();
  await expect(page.getByTestId("block-0")).toBeVisible();
  await expect(page.getByRole("dialog")).toHaveCount(0);
  // Its cookie is not for scripts.
  expect(await page.evaluate(() => document.cookie)).toBe("");
});

test("the sign-in page is calm in all three themes", async ({ page }) => {
  for (const theme of THEMES) {
    await page.goto("tonight");
    await page.evaluate((t) => localStorage.setItem("salt-lamp.theme", t), theme);
    await page.reload();
    await expect(page.getByRole("dialog")).toBeVisible();
    await axe(page);
  }
});

test("browsers are signed out and tokens are made and ended; what is open stays", async ({ page, request }) => {
  await page.goto("access");
  await signIn(page);
  await expect(page.getByTestId("access-state")).toContainText("Whoever knows the passphrase");
  await page.getByLabel("What it is for").fill("night script");
  await page.getByRole("button", { name: "Make a token" }).click();
  const secret = (await page.getByTestId("token-secret").locator("code").textContent()) ?? "";
  const asked = () => request.get("api/v1/scenarios", { headers: { authorization: `Bearer ${secret}` } });
  expect((await asked()).status()).toBe(200);
  await axe(page);
  await page.getByTestId("tokens").getByRole("button", { name: "End it" }).click();
  await expect(page.getByTestId("tokens").locator("li")).toHaveCount(0);
  expect((await asked()).status()).toBe(401);
  await expect(page.getByTestId("sessions")).toContainText("This one:");
  await page.getByRole("button", { name: "Sign out everywhere" }).click();
  await expect(page.getByRole("dialog", { name: "Salt Lamp" })).toBeVisible();
  await signIn(page);
  await expect(page.getByTestId("sessions").locator("li")).toHaveCount(1);
});
