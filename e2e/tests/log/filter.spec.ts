import { axe, expect, test } from "../fixtures";

const sure = (value: number, sd: number) => ({ value, sd });

/** A dual band whose centre is 1.8 nm too blue, as two exposures tell it. */
const copy = {
  filter: "Dual band 3 nm",
  verdict: "outside",
  told: [
    "A copy 1.8 nm too blue, outside its tolerance of ± 0.5 nm: at f/2.8 31 % of H-alpha come through, 74 % of a copy as promised.",
    "Its centre is -1.8 ± 0.2 nm off in parallel light with an effective index of 1.90 ± 0.14; at f/2.8 the two together leave H-alpha at 31 % ± 3.",
  ],
  tolerance_nm: 0.5,
  off_nm: sure(-1.8, 0.2),
  n_eff: sure(1.9, 0.14),
  together: -0.8,
  likely: Array.from({ length: 41 }, (_, i) => [-2.8 + 0.05 * i, 2 * Math.exp(-(((0.05 * i - 1) / 0.2) ** 2) / 2)]),
  at: [2.8, 5.5].map((focal_ratio) => ({
    focal_ratio,
    lines: [
      {
        quantity: "ha",
        name: "H-alpha",
        line_nm: 656.28,
        centre_nm: sure(653.1, 0.1),
        passes: sure(0.31, 0.03),
        promised: 0.74,
        slow: 0.88,
      },
    ],
  })),
  misfit: 1.1,
  as_measured: { name: "Dual band 3 nm" },
};

test("a filter's copy is held against a second exposure, step by step, and taken over", async ({ page }) => {
  await page.goto("/log");
  await expect(page.getByTestId("night-totals")).toBeVisible({ timeout: 120_000 });
  const open = page.getByRole("button", { name: "Check the filter" });
  await open.click();
  // A luminance filter has no line that a nanometre could lose.
  await expect(page.getByText(/where its edges lie to a nanometre is no matter/)).toBeVisible();
  await page.keyboard.press("Escape");

  const second = { session: "s", night: "2026-11-20", frame: "f", file: "f.fits", focal_ratio: 5.5 };
  await page.route("**/api/v1/log/sessions/*/copy?*", (route) =>
    route.fulfill({
      json: {
        filter: copy.filter,
        focal_ratio: 2.8,
        frames: [
          { ...second, filter: copy.filter, same_filter: true },
          { ...second, frame: "g", filter: "Dual band 12 nm", focal_ratio: 2.8, same_filter: false },
        ],
      },
    }),
  );
  let asked = "";
  await page.route("**/api/v1/log/copy", (route) => {
    asked = route.request().postData() ?? "";
    const box = { x: 1, y: 1, width: 40, height: 40 };
    return route.fulfill({
      json: {
        copy,
        frames: [6, 4],
        second: { patch: box, background: box },
        subjects: ["Dual band 3 nm"],
        means: ["Dual band 3 nm: 2.4 times the time for the same."],
      },
    });
  });
  await page.route("**/api/v1/log/copy/taken", (route) =>
    route.fulfill({ status: 422, json: { title: "Not accepted", detail: "It is gone.", errors: [] } }),
  );
  await page.reload();
  await open.click();
  await page.getByRole("radio", { name: "Dual band 3 nm at f/5.5, 2026-11-20" }).press("ArrowDown", { delay: 100 });
  await expect(page.getByRole("radio", { name: "Dual band 12 nm at f/2.8, 2026-11-20" })).toBeChecked();
  await page.getByTestId("marking").press("ArrowRight");
  await page.getByRole("button", { name: "Where do its bands lie?" }).click();
  const found = page.getByTestId("copy-found");
  await expect(found).toContainText("A copy 1.8 nm too blue, outside its tolerance");
  await expect(found.getByRole("row", { name: "f/2.8 H-alpha 31 % ± 3 74 % 88 %" })).toBeVisible();
  await expect(found.getByTestId("copy-likely")).toBeVisible();
  expect(JSON.parse(asked)).toMatchObject({ second: { frame: "g", marks: null }, same_copy: false });
  await axe(page);
  // What cannot be taken over is said, and can be tried again.
  await found.getByRole("button", { name: "Take over as measured" }).click();
  await expect(page.getByText(/gone/)).toBeVisible();
  await expect(found.getByRole("button", { name: "Take over as measured" })).toBeEnabled();
});
