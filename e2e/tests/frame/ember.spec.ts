import { expect, test } from "../fixtures";

test("ember leaves no pixel in green or blue", async ({ strict: page }) => {
  await page.addInitScript(() => localStorage.setItem("salt-lamp.theme", "ember"));
  for (const path of [
    "/bench/larch-lane-ic-443?chart=spectrum",
    "/kit?kind=filter&id=uhc&compare=dual-7",
    "/targets?object=IC+443",
    "/bench/larch-lane-ic-443?chart=look",
    "/bench/larch-lane-ic-443?chart=sub",
    "/bench",
    "/night?campaign=ic-443-winter&date=2027-01-28",
    "/campaign",
  ]) {
    await page.goto(path);
    await page.waitForLoadState("networkidle");
    const png = (await page.screenshot()).toString("base64");
    const worst = await page.evaluate(async (data) => {
      const image = new Image();
      image.src = `data:image/png;base64,${data}`;
      await image.decode();
      const canvas = document.createElement("canvas");
      [canvas.width, canvas.height] = [image.width, image.height];
      const context = canvas.getContext("2d");
      if (!context) return 255;
      context.drawImage(image, 0, 0);
      const pixels = context.getImageData(0, 0, image.width, image.height).data;
      let most = 0;
      for (let i = 0; i < pixels.length; i += 4) most = Math.max(most, pixels[i + 1] ?? 0, pixels[i + 2] ?? 0);
      return most;
    }, png);
    expect(worst).toBe(0);
  }
});
