// Takes the pictures of docs/screenshots from a running demo: node screenshots.mjs URL DIRECTORY [NAME...]
import { chromium } from "@playwright/test";
import { shots } from "./shots.mjs";

const [url, directory, ...only] = process.argv.slice(2);
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
  ],
});
for (const shot of shots.filter((s) => only.length === 0 || only.includes(s.name))) {
  const page = await browser.newPage({
    viewport: shot.viewport ?? { width: 1280, height: 800 },
    colorScheme: "dark",
    baseURL: url,
  });
  if (shot.theme) await page.addInitScript((theme) => localStorage.setItem("salt-lamp.theme", theme), shot.theme);
  await page.goto(url + shot.path);
  await page.waitForLoadState("networkidle");
  await page.getByText("Loading…").waitFor({ state: "detached" });
  await page.waitForLoadState("networkidle");
  if (shot.act) await shot.act(page);
  await page.waitForTimeout(250);
  await page.screenshot({ path: `${directory}/${shot.name}.png`, animations: "disabled" });
  await page.close();
}
await browser.close();
