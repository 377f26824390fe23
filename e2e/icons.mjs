// Makes the icons of the application from its lamp: `node icons.mjs`, once the lamp was drawn anew.
import { readFileSync, writeFileSync } from "node:fs";
import { chromium } from "@playwright/test";

const at = new URL("../web/public/", import.meta.url);
const lamp = readFileSync(new URL("lamp.svg", at), "utf8");
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: ["--no-sandbox"],
});

/** The lamp on the ground of its theme, or on nothing. */
async function picture(size, ground, margin) {
  const page = await browser.newPage({ viewport: { width: size, height: size } });
  const inside = Math.round(size * (1 - 2 * margin));
  await page.setContent(
    `<body style="margin:0;display:grid;place-items:center;height:100vh;background:${ground}"><img width="${inside}" height="${inside}" src="data:image/svg+xml;base64,${Buffer.from(lamp).toString("base64")}"></body>`,
  );
  await page.waitForTimeout(200);
  const png = await page.screenshot({ omitBackground: ground === "transparent" });
  await page.close();
  return png;
}

writeFileSync(new URL("touch-icon.png", at), await picture(180, "#16100d", 0.12));
writeFileSync(new URL("icon-192.png", at), await picture(192, "#16100d", 0.12));
writeFileSync(new URL("icon-512.png", at), await picture(512, "#16100d", 0.12));

// An icon file is a table of pictures; PNG is allowed in it.
const pictures = [
  [16, await picture(16, "transparent", 0)],
  [32, await picture(32, "transparent", 0)],
];
const table = Buffer.alloc(6 + 16 * pictures.length);
table.writeUInt16LE(1, 2);
table.writeUInt16LE(pictures.length, 4);
let offset = table.length;
pictures.forEach(([size, png], i) => {
  const entry = 6 + 16 * i;
  table.writeUInt8(size, entry);
  table.writeUInt8(size, entry + 1);
  table.writeUInt16LE(1, entry + 4);
  table.writeUInt16LE(32, entry + 6);
  table.writeUInt32LE(png.length, entry + 8);
  table.writeUInt32LE(offset, entry + 12);
  offset += png.length;
});
writeFileSync(new URL("favicon.ico", at), Buffer.concat([table, ...pictures.map(([, png]) => png)]));
await browser.close();
