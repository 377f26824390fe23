import type { Page } from "@playwright/test";
import { expect, faults, settled, sideways, THEMES, test, unreadableInRed, VIEWS } from "../fixtures";

// A view more or less: each is for whichever worker is free.
test.describe.configure({ mode: "parallel" });

const SIZES = [
  { width: 1280, height: 800 },
  { width: 1024, height: 768 },
  { width: 390, height: 844 },
];

/** What a view has of its own: what stands around an editor or a chart of the bench is looked at with the bench itself. */
const ownPart = (name: string) => {
  if (name.startsWith("bench, editing")) return "[data-radix-popper-content-wrapper]";
  return name.startsWith("bench, ") && name !== "bench, time" ? "[role=tabpanel][data-state=active]" : "html";
};

for (const [name, path] of Object.entries(VIEWS)) {
  test(`${name}: axe finds nothing in three themes at three sizes, and nothing scrolls sideways`, async ({
    strict: page,
  }) => {
    // A colour on its way to another is neither: themes change at once.
    await page.emulateMedia({ reducedMotion: "reduce" });
    await page.goto(typeof path === "string" ? path : await path(page));
    await settled(page);
    const wrong: string[] = [];
    // What can be scrolled out from beneath the line at the foot, or the bar of a phone, is not covered by it.
    await page.addStyleTag({ content: "footer, nav { position: static !important }" });
    for (const size of [...SIZES, { width: 320, height: 640 }]) {
      await page.setViewportSize(size);
      await settled(page);
      wrong.push(...(await sideways(page)).map((w) => `${size.width}: ${w}`));
      if (size.width === 320) continue;
      // Colours are those of the desk at every width, but for the bar that a phone alone has.
      for (const theme of size.width === 1024 ? [THEMES[0]] : THEMES) {
        await page.evaluate((t) => {
          document.documentElement.dataset.theme = t;
        }, theme);
        // What is not a matter of colour is the same in every theme.
        const barAlone = size.width === 390 && theme !== THEMES[0];
        if (barAlone && ownPart(name) !== "html") continue;
        const part = barAlone ? "nav" : ownPart(name);
        wrong.push(...(await faults(page, theme !== THEMES[0], part)).map((w) => `${size.width} ${theme}: ${w}`));
      }
    }
    expect(wrong).toEqual([]);
  });
}

test.describe("in Ember, with red alone", () => {
  // Three pixels for one: a stroke's middle has the colour of its ink.
  test.use({ deviceScaleFactor: 3 });
  for (const [name, path] of Object.entries(VIEWS)) {
    test(`${name}: all text is at least 4.5 to 1 on its pixels`, async ({ strict: page }) => {
      await page.addInitScript(() => localStorage.setItem("salt-lamp.theme", "ember"));
      await page.emulateMedia({ reducedMotion: "reduce" });
      await page.goto(typeof path === "string" ? path : await path(page));
      await settled(page);
      // Places are read first and the picture is taken then: what moves between the two is read once more.
      await expect(async () => expect(await unreadableInRed(page)).toEqual([])).toPass({ timeout: 20_000 });
    });
  }
});

test("every view names its page, and going to one takes the reading there", async ({ strict: page }) => {
  await page.goto("/bench");
  await expect(page).toHaveTitle("Comparisons · Salt Lamp");
  for (const [key, title] of [
    ["t", "Targets · Salt Lamp"],
    ["n", /^Night of \d{4}-\d\d-\d\d, .+ · Salt Lamp$/],
    ["c", "IC 443, winter 2026-27 · Salt Lamp"],
    ["l", /^Log.* · Salt Lamp$/],
    ["k", "Rigs, kit · Salt Lamp"],
    ["h", "Tonight · Salt Lamp"],
    ["a", "About · Salt Lamp"],
    ["b", "Comparisons · Salt Lamp"],
  ] as const) {
    await page.keyboard.press("g");
    await page.keyboard.press(key);
    await expect(page).toHaveTitle(title);
    await expect(page.locator("#main")).toBeFocused();
  }
  // By a link that was tabbed to, and out of the palette.
  // Copies that other tests made may stand before it.
  await page.locator('main a[href="/bench/larch-lane-ic-443"]').first().click();
  await expect(page).toHaveTitle("IC 443 from Larch Lane · Salt Lamp");
  await expect(page.locator("#main")).toBeFocused();
  await page.keyboard.press("Control+k");
  await page.keyboard.type("go to targets");
  await page.keyboard.press("Enter");
  await expect(page).toHaveTitle("Targets · Salt Lamp");
  await expect(page.locator("#main")).toBeFocused();
});

test("charts are tabs with panels of their own, and choices go by arrow keys", async ({ strict: page }) => {
  await page.goto("/bench/larch-lane-ic-443");
  await page.getByRole("tab", { name: "Time" }).focus();
  await page.keyboard.press("ArrowRight");
  const tab = page.getByRole("tab", { name: "Sub", exact: true });
  await expect(tab).toBeFocused();
  await expect(tab).toHaveAttribute("aria-selected", "true");
  const panel = page.locator(`[id="${await tab.getAttribute("aria-controls")}"]`);
  await expect(panel).toHaveRole("tabpanel");
  await expect(panel.getByTestId("sub-text")).toBeVisible();
  const judge = page.getByRole("radiogroup", { name: "Judge by" });
  await judge.getByRole("radio", { name: "H-alpha + [N II]" }).focus();
  // A finger holds a key for a moment.
  await page.keyboard.press("ArrowRight", { delay: 80 });
  await expect(judge.getByRole("radio", { name: "H-alpha alone" })).toBeChecked();
  await expect(page).toHaveURL(/q=ha_alone/);
  const theme = page.getByRole("radiogroup", { name: "Theme" });
  await theme.getByRole("radio", { name: /Lamp/ }).focus();
  await page.keyboard.press("ArrowDown", { delay: 80 });
  await expect(page.locator("html")).toHaveAttribute("data-theme", "ember");
});

test("a verdict is said once a drag is over, politely", async ({ strict: page }) => {
  await page.goto("/bench/larch-lane-ic-443");
  const said = page.getByTestId("verdict-said");
  await expect(said).toHaveAttribute("aria-live", "polite");
  await expect(said).toHaveText(/^Path A\. Sub: .+\.$/);
  const before = (await said.textContent()) ?? "";
  const slider = page.getByTestId("sky").getByRole("slider");
  await slider.focus();
  // The drag is made within the page, in half a second: words are said once they have rested for a whole one.
  const drag = await slider.evaluate(async (thumb, words) => {
    const told = document.querySelector('[data-testid="verdict-said"]');
    const from = performance.now();
    let spoke = false;
    for (let i = 0; i < 12; i++) {
      thumb.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowRight", bubbles: true }));
      await new Promise((r) => setTimeout(r, 45));
      spoke ||= told?.textContent !== words;
    }
    return { took: performance.now() - from, spoke };
  }, before);
  // Still the old words while it moved, unless a machine that is busy with something else made it longer than that.
  expect(drag.spoke && drag.took < 1000, JSON.stringify(drag)).toBe(false);
  await expect(said).not.toHaveText(before);
});

test("a crop is moved, zoomed and measured by keyboard, and the wheel does not scroll the page", async ({
  strict: page,
}) => {
  await page.goto("/bench/larch-lane-ic-443?chart=look");
  const crop = page.getByRole("application", { name: /Simulated crop of path A/ });
  await expect(crop).toBeVisible();
  await expect(page.getByText("Counting photons…")).toHaveCount(0);
  const zoom = async () => Number.parseFloat((await page.getByTestId("look-zoom-value").textContent()) ?? "");
  await crop.focus();
  const far = await zoom();
  await page.keyboard.press("+");
  await expect.poll(zoom).toBeGreaterThan(far);
  await page.getByRole("button", { name: "Measure" }).click();
  await crop.focus();
  await page.keyboard.press("Enter");
  const row = page.getByTestId("measured").locator("tbody tr").first();
  await expect(row).toBeVisible();
  const first = await row.textContent();
  for (let i = 0; i < 8; i++) await page.keyboard.press("Shift+ArrowRight");
  await expect.poll(() => row.textContent()).not.toBe(first);
  await crop.scrollIntoViewIfNeeded();
  const at = await page.evaluate(() => window.scrollY);
  const near = await zoom();
  await crop.hover();
  await page.mouse.wheel(0, 240);
  await expect.poll(zoom).toBeLessThan(near);
  expect(await page.evaluate(() => window.scrollY)).toBe(at);
});

test.describe("at the first start", () => {
  for (const [colorScheme, theme] of [
    ["light", "daylight"],
    ["dark", "lamp"],
  ] as const) {
    test.describe(colorScheme, () => {
      test.use({ colorScheme });
      test(`a ${colorScheme} system gets ${theme}, and what is chosen then stays`, async ({ strict: page }) => {
        await page.goto("/bench");
        await expect(page.locator("html")).toHaveAttribute("data-theme", theme);
        await page.getByRole("radio", { name: /Ember/ }).click();
        await page.reload();
        await expect(page.locator("html")).toHaveAttribute("data-theme", "ember");
      });
    });
  }
});

test("on a phone the views stand at the bottom, the rest behind one button", async ({ strict: page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto("/bench");
  const bar = page.getByRole("navigation", { name: "Views" });
  expect((await bar.boundingBox())?.y).toBeGreaterThan(750);
  expect(await bar.getByRole("link").allTextContents()).toEqual(["Tonight", "Bench", "Night", "Now", "Campaign"]);
  await bar.getByRole("button", { name: "More" }).click();
  await page.getByRole("link", { name: "Targets" }).click();
  await expect(page).toHaveTitle("Targets · Salt Lamp");
  for (const target of await bar.getByRole("link").all())
    expect((await target.boundingBox())?.height).toBeGreaterThanOrEqual(40);
});

test("licences are shown with their texts, and the guide is read in the program itself", async ({ strict: page }) => {
  await page.goto("/about");
  await expect(page.getByTestId("version")).toHaveText(/^version \d+\.\d+\.\d+$/);
  await page.getByRole("link", { name: /^Licences/ }).click();
  await page.getByRole("button", { name: /^Show all .*In the interface/ }).click();
  await page.getByRole("button", { name: /^Show all .*In the server/ }).click();
  for (const [name, words] of [
    ["Catalogue of deep-sky objects", "Attribution-ShareAlike 4.0"],
    ["@fontsource-variable/atkinson-hyperlegible-next", "SIL OPEN FONT LICENSE"],
    ["react", "Permission is hereby granted"],
    ["tokio", "Permission is hereby granted"],
  ] as const) {
    const row = page
      .getByRole("listitem")
      .filter({ has: page.getByText(new RegExp(`^${name.replace("/", "\\/")}( |$)`)) })
      .first();
    await row.getByText(name).first().click();
    await expect(row.locator("pre").first()).toContainText(new RegExp(words, "i"));
  }
  await page.reload();
  // A long list is folded, and opens for what is looked for.
  await expect(page.getByText(/^tokio /)).toHaveCount(0);
  await page.getByLabel("Find by name or licence").fill("tokio");
  await expect(page.getByText(/^tokio /).first()).toBeVisible();
  await page.getByLabel("Find by name or licence").fill("no such thing");
  await expect(page.getByText("Nothing by that name or licence.")).toBeVisible();
  await page.goto("/guide");
  await expect(page.getByRole("heading", { level: 1, name: "A first comparison" })).toBeVisible();
  const picture = page.getByRole("img", { name: /Three filters compared/ });
  await picture.scrollIntoViewIfNeeded();
  await expect.poll(() => picture.evaluate((i: HTMLImageElement) => i.naturalWidth)).toBeGreaterThan(800);
  await page.getByRole("navigation", { name: "Guide" }).getByRole("link", { name: "Formats" }).click();
  await expect(page.getByTestId("guide")).toContainText("salt-lamp-scenario");
  await page.goto("/guide/nothing");
  await expect(page.getByRole("heading", { name: "There is nothing at this address." })).toBeVisible();
});

/** Things to press that are lower than a finger is wide. Links within a sentence keep its line; a box is pressed by its label. */
const lowerThan = (page: Page, least: number) =>
  page.evaluate((least) => {
    const press =
      "button, nav a, li > a, input, [role=option], [role=menuitem], [role=tab], [role=radio], [role=slider], [role=switch]";
    const heightOf = (e: Element) => {
      const around = e.matches("input[type=checkbox]") ? (e.closest("label") ?? e) : e;
      // A thumb or a switch is pressed around its own shape.
      const inset = Number.parseFloat(getComputedStyle(e, "::after").insetBlockStart) || 0;
      return around.getBoundingClientRect().height - 2 * Math.min(0, inset);
    };
    return [...document.querySelectorAll(press)]
      .filter((e) => {
        const r = e.getBoundingClientRect();
        return r.width > 2 && r.height > 2 && getComputedStyle(e).visibility !== "hidden" && heightOf(e) < least;
      })
      .map((e) => `${e.tagName} ${e.getAttribute("aria-label") ?? e.textContent?.slice(0, 40)}`);
  }, least);

for (const size of [
  { width: 390, height: 844 },
  { width: 1024, height: 768 },
])
  test(`for fingers everything that is pressed is 40 px high, ${size.width} wide`, async ({ browser, baseURL }) => {
    const context = await browser.newContext({ viewport: size, hasTouch: true, isMobile: true, baseURL });
    const page = await context.newPage();
    for (const path of [
      "/tonight",
      "/kit",
      "/kit?kind=filter",
      "/bench",
      "/bench/larch-lane-ic-443",
      "/targets",
      "/night",
      "/campaign",
    ]) {
      await page.goto(path);
      await settled(page);
      expect(await page.evaluate(() => matchMedia("(pointer: coarse)").matches)).toBe(true);
      expect(await lowerThan(page, 39.5), path).toEqual([]);
      expect(await sideways(page), path).toEqual([]);
    }
    await context.close();
  });
