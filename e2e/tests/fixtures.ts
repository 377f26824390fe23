import AxeBuilder from "@axe-core/playwright";
import { test as base, expect, type Page } from "@playwright/test";

/** A page that fails its test on a console error, an uncaught exception or a request that leaves this host. */
export const test = base.extend<{ strict: Page }>({
  strict: async ({ page, baseURL }, use) => {
    const wrong: string[] = [];
    page.on("console", (m) => {
      // A refused document is an expected answer in the tests that provoke one.
      if (m.type() === "error" && !/status of 4(00|04|12|22|29)/.test(m.text())) wrong.push(`console: ${m.text()}`);
    });
    page.on("pageerror", (e) => wrong.push(`exception: ${e.message}`));
    page.on("request", (r) => {
      const url = r.url();
      if (!url.startsWith(baseURL ?? "") && !/^(data|blob):/.test(url)) wrong.push(`left the host: ${url}`);
    });
    await use(page);
    expect(wrong).toEqual([]);
  },
});

/** What a program can find against WCAG 2.2 AA and the good practice of headings, regions and tables; or by colours alone, or in one part of the page. */
export async function faults(page: Page, colours = false, within = "html"): Promise<string[]> {
  const tags = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"];
  const all = new AxeBuilder({ page }).include(within).options({ resultTypes: ["violations"] });
  const { violations } = await (colours
    ? all.withRules(["color-contrast", "link-in-text-block"])
    : all.withTags(tags)
  ).analyze();
  return violations.map(
    (v) =>
      `${v.id}: ${v.nodes
        .map((n) => `${n.target.join(" ")} ${n.failureSummary}`)
        .slice(0, 3)
        .join(" | ")}`,
  );
}

/** Fails with what is found. */
export async function axe(page: Page) {
  // What can be scrolled out from beneath the line at the foot is not covered by it.
  const foot = await page.addStyleTag({
    // Nor is a colour judged on its way to another.
    content: "footer { position: static !important } * { transition: none !important; animation: none !important }",
  });
  expect(await faults(page)).toEqual([]);
  await foot.evaluate((e) => (e as Element).remove());
}

export { expect };

/** A copy of a demo scenario that the test may change. */
export async function copyOf(page: Page, id: string): Promise<string> {
  const answer = await page.request.post(`/api/v1/scenarios/${id}/duplicate`);
  expect(answer.status()).toBe(201);
  const { id: copy } = (await answer.json()) as { id: string };
  return copy;
}

export const number = (text: string | null) => Number((text ?? "").replaceAll(/[^\d.]/g, ""));

export const THEMES = ["lamp", "ember", "daylight"] as const;

/** Begins a blind look of a demo comparison. */
async function blind(page: Page): Promise<string> {
  const { scenario } = await (await page.request.get("/api/v1/scenarios/larch-lane-ic-443")).json();
  const view = {
    field_arcsec: 600,
    seed: 1,
    time_fraction: 1,
    palette: "natural",
    single: "ha",
    stretch: "asinh",
    strength: 0.6,
    match: "background",
    truth: false,
    guiding_rms_arcsec: 0,
    gap_mm: 15,
    moon_direction_deg: 0,
  };
  const { id } = await (await page.request.post("/api/v1/look/blind", { data: { scenario, view } })).json();
  return `/blind/${id}?back=/bench`;
}

const CHARTS = ["time", "sub", "gain", "budget", "filters", "spectrum", "bandwidth", "look", "worth", "table"];
const KINDS = ["rig", "telescope", "filter", "site", "camera"];
const STAGES = ["target", "air", "optics", "filter", "sensor", "sub"];

/** Every view, and what of a view is a page of its own to whoever looks at it: where it stands, or how to come there. */
export const VIEWS: Record<string, string | ((page: Page) => Promise<string>)> = {
  tonight: "/tonight",
  comparisons: "/bench",
  ...Object.fromEntries(CHARTS.map((c) => [`bench, ${c}`, `/bench/larch-lane-ic-443?chart=${c}`])),
  ...Object.fromEntries(STAGES.map((s) => [`bench, editing ${s}`, `/bench/larch-lane-ic-443?edit=1.${s}`])),
  report: "/bench/larch-lane-ic-443/report",
  blind,
  targets: "/targets",
  "one target": "/targets?object=NGC+7129",
  night: "/night",
  campaign: "/campaign",
  log: "/log",
  trials: "/trials?id=two-3-nm-sets",
  ...Object.fromEntries(KINDS.map((k) => [`kit, ${k}`, `/kit?kind=${k}`])),
  "kit, to buy": "/kit/to-buy",
  about: "/about",
  "who may use it": "/access",
  licences: "/licences",
  guide: "/guide",
  formats: "/guide/formats",
  "a lost address": "/nowhere",
};

/** Waits until nothing is being fetched and the page has been still for a moment. */
export async function settled(page: Page) {
  await page.waitForLoadState("networkidle");
  await expect(page.getByText(/^(Loading|Counting photons|Reading)…$/)).toHaveCount(0);
  await page.waitForTimeout(250);
}

/** What makes the page, or a chart or table in it, wider than the window. */
export async function sideways(page: Page): Promise<string[]> {
  return page.evaluate(() => {
    const wide = document.documentElement.clientWidth;
    const told = (e: Element) => `${e.tagName.toLowerCase()}.${(e.getAttribute("class") ?? "").slice(0, 60)}`;
    const out: string[] = [];
    if (document.documentElement.scrollWidth > wide)
      out.push(`the page is ${document.documentElement.scrollWidth} wide`);
    for (const e of document.querySelectorAll("main *, nav *, footer *")) {
      const style = getComputedStyle(e);
      if (e.scrollWidth > e.clientWidth + 1 && /auto|scroll/.test(style.overflowX))
        out.push(`${told(e)} scrolls: ${e.scrollWidth} in ${e.clientWidth}`);
    }
    return out;
  });
}

/** Relative luminance of what red a pixel has (WCAG 2.2), the rest of it off. */
const MEASURE = `
  const lin = (v) => { const c = v / 255; return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4; };
  const RED = Array.from({ length: 256 }, (_, v) => 0.2126 * lin(v));
`;

/**
 * Text that is fainter than 4.5:1 on the pixels of a picture of the page, red alone, and pixels that shine in another colour.
 *
 * Of each piece of text the commonest pixel is its ground and the one that differs most its ink. What is disabled is exempt.
 */
export async function unreadableInRed(page: Page): Promise<string[]> {
  const boxes = await page.evaluate(() => {
    const out: { text: string; x: number; y: number; w: number; h: number }[] = [];
    // What stands over the page throws its shadow on it: then it alone is read.
    const over = document.querySelector("[data-radix-popper-content-wrapper]") ?? document.body;
    const walk = document.createTreeWalker(over, NodeFilter.SHOW_TEXT);
    for (let node = walk.nextNode(); node; node = walk.nextNode()) {
      const text = node.textContent?.trim() ?? "";
      const around = node.parentElement;
      if (
        !text ||
        !around ||
        around.closest(":disabled, [aria-disabled=true], [aria-hidden=true]:not(svg *), .sr-only, script, style")
      )
        continue;
      const range = document.createRange();
      range.selectNodeContents(node);
      for (const r of range.getClientRects()) {
        const [x, y] = [r.left + r.width / 2, r.top + r.height / 2];
        const top = document.elementFromPoint(x, y);
        // Only what is in sight: nothing lies over it and no box cuts it off.
        if (r.width < 3 || r.height < 6 || !top || !(around.contains(top) || top.contains(around))) continue;
        let cut = false;
        for (let box = around.parentElement; box; box = box.parentElement) {
          const { top: from, bottom: to } = box.getBoundingClientRect();
          if (/auto|scroll|hidden/.test(getComputedStyle(box).overflowY) && (r.top < from || r.bottom > to)) cut = true;
        }
        if (cut) continue;
        out.push({ text: text.slice(0, 40), x: r.left, y: r.top, w: r.width, h: r.height });
      }
    }
    return out;
  });
  const png = (await page.screenshot()).toString("base64");
  return page.evaluate(
    async ([png, boxes, measure]) => {
      const RED = new Function(`${measure}; return RED;`)() as number[];
      const bitmap = await createImageBitmap(new Blob([Uint8Array.from(atob(png), (c) => c.charCodeAt(0))]));
      const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
      const context = canvas.getContext("2d") as OffscreenCanvasRenderingContext2D;
      context.drawImage(bitmap, 0, 0);
      const { data, width, height } = context.getImageData(0, 0, bitmap.width, bitmap.height);
      const scale = width / window.innerWidth;
      const wrong: string[] = [];
      let other = 0;
      for (let k = 0; k < data.length; k += 4) if ((data[k + 1] as number) > 2 || (data[k + 2] as number) > 2) other++;
      if (other > 0) wrong.push(`${other} pixels shine in green or blue`);
      for (const b of boxes) {
        const count = new Map<number, number>();
        for (let y = Math.max(0, Math.floor(b.y * scale)); y < Math.min(height, (b.y + b.h) * scale); y++)
          for (let x = Math.max(0, Math.floor(b.x * scale)); x < Math.min(width, (b.x + b.w) * scale); x++) {
            const red = data[(y * width + x) * 4] as number;
            count.set(red, (count.get(red) ?? 0) + 1);
          }
        if (count.size === 0) continue;
        const ground = RED[[...count].reduce((a, b) => (b[1] > a[1] ? b : a))[0]] as number;
        const best = Math.max(
          ...[...count.keys()].map(
            (v) => (Math.max(RED[v] as number, ground) + 0.05) / (Math.min(RED[v] as number, ground) + 0.05),
          ),
        );
        if (best < 4.5) wrong.push(`${b.text}: ${best.toFixed(2)}`);
      }
      return wrong;
    },
    [png, boxes, MEASURE] as const,
  );
}
