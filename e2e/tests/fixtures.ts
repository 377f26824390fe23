import AxeBuilder from "@axe-core/playwright";
import { type Page, test as base, expect } from "@playwright/test";

/** A page that fails its test on a console error, an uncaught exception or a request that leaves this host. */
export const test = base.extend<{ strict: Page }>({
  strict: async ({ page, baseURL }, use) => {
    const wrong: string[] = [];
    page.on("console", (m) => {
      // A refused document is an expected answer in the tests that provoke one.
      if (m.type() === "error" && !/status of 4(00|04|12|22)/.test(m.text())) wrong.push(`console: ${m.text()}`);
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

/** WCAG 2.2 AA as far as a program can tell. */
export async function axe(page: Page) {
  const result = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]).analyze();
  expect(result.violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(" ") + " " + n.failureSummary).slice(0, 3).join(" | ")}`)).toEqual([]);
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
