import type { Locator, Response } from "@playwright/test";
import { axe, expect, test } from "../fixtures";

/** Frames in blocks A B B A, of which B holds `more` than A; the scatter is by hand. */
const frames = (more: number) =>
  Array.from({ length: 24 }, (_, i) => {
    const kind = i % 4 === 1 || i % 4 === 2 ? 1 : 0;
    const off = ((i * 7) % 11) / 5 - 1;
    return {
      id: `f${i}`,
      name: `f${i}.fits`,
      kind,
      start_s: 1.8e9 + 300 * i,
      measure: Math.exp(1 + Math.log1p(more) * kind + 0.02 * off),
      known: { airmass: 1 + 0.01 * (i % 5) },
    };
  });

test("a trial is designed in a minute, taken by its sheet, and judged", async ({ strict: page }) => {
  await page.goto("/trials");
  await expect(page.getByRole("button", { name: /Two H-alpha filters of 3 nm/ })).toBeVisible();
  await page.getByTestId("trial-from").click();
  await page
    .getByRole("option", { name: /NGC 7822/ })
    .first()
    .click();
  // Another light path's filter for the same line.
  await expect(page.getByTestId("trial-b")).toContainText("H-alpha 7 nm");
  await page.getByRole("button", { name: "Design it" }).click();
  await expect(page.getByRole("textbox", { name: "Title of the trial" })).toHaveValue(
    "H-alpha 3 nm against H-alpha 7 nm",
  );
  await expect(page.getByTestId("trial-design")).toContainText(/The model expects [+−]\d/);
  await page.getByLabel("One frame scatters by").fill("3");
  await page.keyboard.press("Tab");
  await expect(page.getByTestId("trial-design")).toContainText(/9 pairs show 5\.0\s% four times in five/);
  await expect(page.getByTestId("trial-order")).toHaveText(/^(ABBA|BAAB)( (ABBA|BAAB)){4}$/);
  await page.getByLabel("Evening", { exact: true }).fill("2026-11-10");
  await expect(page.getByTestId("run-sheet").getByRole("row")).toHaveCount(21);
  // Its hours are kept free in the night's plan.
  await page.getByRole("link", { name: "In the night's plan" }).click();
  await expect(page.getByTestId("trial-block")).toHaveCount(1);
  await expect(page.getByTestId("trial-hours")).toContainText(/\d\d:\d\d to \d\d:\d\d/);
  await expect(page.getByTestId("run-sheet")).toContainText("H-alpha 3 nm against H-alpha 7 nm, by its own sheet");
  const cell = async (row: Locator) => (await row.getByRole("cell").first().textContent()) ?? "";
  const minutes = (text: string) => {
    const [h = 0, m = 0] = text.split(":").map(Number);
    // From noon to noon.
    return ((h + 12) % 24) * 60 + m;
  };
  const [from = 0, to = 0] = (await cell(page.getByTestId("run-sheet").getByRole("row", { name: /Trial/ })))
    .split("–")
    .map(minutes);
  for (const row of await page.getByTestId("run-sheet").getByRole("row", { name: / × / }).all()) {
    const [begins = 0, ends = 0] = (await cell(row)).split("–").map(minutes);
    expect(ends <= from || begins >= to, `${begins} to ${ends}, the trial ${from} to ${to}`).toBe(true);
  }
  await axe(page);
  await page.getByTestId("night-trial").click();
  await page.getByRole("option", { name: "No trial" }).click();
  await expect(page.getByTestId("trial-block")).toHaveCount(0);
  await page.getByTestId("night-trial").click();
  await page.getByRole("option", { name: "H-alpha 3 nm against H-alpha 7 nm" }).first().click();
  await page.getByRole("link", { name: "Its sheet" }).click();
  await page.getByLabel("Evening", { exact: true }).fill("2026-11-10");

  await page.getByLabel("Difference that matters").fill("10");
  await page.keyboard.press("Tab");
  await expect(page.getByTestId("trial-design")).toContainText(/show 10\.0\s% four times in five/);
  await axe(page);

  // What the frames say.
  const all = (await (await page.request.get("/api/v1/trials")).json()) as {
    id: string;
    revision: number;
    trial: object;
  }[];
  const own = all[0];
  if (!own) throw new Error("no trial");
  const saved = await page.request.put(`/api/v1/trials/${own.id}`, {
    headers: { "If-Match": `"${own.revision}"` },
    data: { ...own.trial, frames: frames(0.1) },
  });
  expect(saved.ok()).toBe(true);
  await page.reload();
  await expect(page.getByTestId("trial-headline")).toContainText(/B \(.+\) is better: signal to noise of the patch \+/);
  await expect(page.getByRole("img", { name: /All allowed for: \+/ })).toBeVisible();
  await expect(page.getByTestId("trial-verdict")).toContainText("four times in five");
  await axe(page);
  // A frame that is left out no longer counts, by keyboard.
  const counts = page.getByRole("checkbox", { name: "f3.fits counts" });
  await counts.focus();
  await page.keyboard.press("Space");
  await expect(page.getByRole("button", { name: /23 of 24 frames/ })).toBeVisible();
  await page.getByRole("combobox", { name: "Kind of f5.fits" }).selectOption("none");
  await expect(page.getByRole("button", { name: /22 of 24 frames/ })).toBeVisible();

  const row = page.getByRole("button", { name: /22 of 24 frames/ });
  await page.getByRole("button", { name: "Delete this trial" }).click();
  await expect(row).toHaveCount(0);
  await page.locator("main").focus();
  await page.keyboard.press("u");
  await expect(row).toBeVisible();
  // Not left behind for others.
  await page.request.delete(`/api/v1/trials/${own.id}`);
});

test("a stand-in plays the demo's trial, and its frames say by how much", async ({ page }) => {
  test.setTimeout(240_000);
  const idle = async () => {
    const folders = (await (await page.request.get("/api/v1/log/folders")).json()) as { playing: boolean };
    return !folders.playing;
  };
  await expect.poll(idle, { timeout: 120_000 }).toBe(true);
  await page.goto("/trials?id=two-3-nm-sets");
  await expect(page.getByTestId("trial-design")).toContainText("+0.0 % of B in signal to noise of the patch");
  await page.getByRole("button", { name: "Play it by the stand-in" }).click();
  const night = async () => {
    const all = (await (await page.request.get("/api/v1/log/sessions?text=NGC+281&from=&to=")).json()) as {
      frames: number;
    }[];
    return all.reduce((sum, n) => sum + n.frames, 0);
  };
  await expect.poll(night, { timeout: 150_000, intervals: [1000] }).toBeGreaterThanOrEqual(20);
  await page.getByTestId("trial-night").click();
  await page.getByRole("option", { name: /NGC 281/ }).click();
  await expect(page.getByTestId("marking")).toBeVisible();
  await page.getByRole("button", { name: "Bring its frames in" }).click();
  await expect(page.getByTestId("trial-frames").getByRole("row")).toHaveCount(21, { timeout: 60_000 });
  await expect(page.getByTestId("trial-headline")).toContainText(
    "B (H-alpha 3 nm, set two) is better: signal to noise of the patch +",
  );
  await expect(page.getByTestId("trial-verdict")).toContainText("The model expects +0.0 %");
  await axe(page);

  // The same sky on two frames, laid upon each other.
  const eye = page.getByRole("region", { name: "Side by side" });
  await expect(eye.getByTestId("beside-figures").getByRole("row")).toHaveCount(5);
  const drawn = (name: string) =>
    eye.getByRole("img", { name }).evaluate((img) => (img as HTMLImageElement).naturalWidth);
  await expect.poll(() => drawn("The first")).toBe(360);
  await expect.poll(() => drawn("The second")).toBe(360);
  await eye.getByRole("radio", { name: "Difference" }).click();
  await expect.poll(() => drawn("What the second has more than the first")).toBe(360);
  await eye.getByRole("radio", { name: "The sky's light" }).click();
  await expect(eye).toContainText("a brighter sky no longer looks like more picture");
  await eye.getByRole("group", { name: /arrow keys move it/ }).press("ArrowRight");
  await expect(eye.getByRole("img", { name: /more than the first/ })).toHaveAttribute("src", /x=0\.52/);
  await expect(eye.getByTestId("beside-figures")).toContainText("as the model has it");
  // The frames do not say their level of no light: the kit does.
  await expect(eye.getByTestId("beside-figures")).not.toContainText("not known");

  // Blind: nothing tells which is which before the eye has chosen.
  const trial = (await (await page.request.get("/api/v1/trials/two-3-nm-sets")).json()) as {
    trial: { frames: { id: string; name: string }[] };
  };
  const secrets = ["set one", "set two", ...trial.trial.frames.flatMap((f) => [f.id, f.name])];
  await eye.getByTestId("trial-blind").click();
  await expect(page).toHaveURL(/\/blind\//);
  const seen: string[] = [];
  const listen = async (r: Response) => {
    const body = await r.body().catch(() => Buffer.from(""));
    seen.push(
      r.url() + JSON.stringify(await r.allHeaders()) + (r.url().includes("/api/") ? body.toString("latin1") : ""),
    );
  };
  page.on("response", listen);
  await page.reload();
  for (let round = 0; round < 2; round++) {
    await expect(page.getByRole("heading", { level: 1 })).toHaveText(
      `Where does the object stand out better from the noise? Round ${round + 1}`,
    );
    await expect(page.getByTestId("blind-1")).toBeVisible();
    if (round === 0) await axe(page);
    await page.keyboard.press("1");
    // A tie in the second round.
    if (round === 1) await page.keyboard.press("=");
    await page.keyboard.press("2");
    const all = (await page.content()) + seen.join("\n");
    expect(secrets.filter((s) => all.includes(s))).toEqual([]);
    if (round === 0) await page.getByTestId("blind-next").click();
  }
  page.off("response", listen);
  await page.getByTestId("blind-reveal").click();
  await expect(page.getByTestId("revealed")).toContainText("H-alpha 3 nm, set two");
  await expect(page.getByTestId("revealed")).toContainText("Of A's");
  await expect(page.getByText(/B \(H-alpha 3 nm, set two\) is better/)).toBeVisible();
  await expect(page.getByText(/by chance it would be/)).toBeVisible();
  await axe(page);
  await page.getByRole("link", { name: "Back" }).click();
  await expect(page).toHaveURL(/\/trials\?id=two-3-nm-sets/);
});
