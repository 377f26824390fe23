import { axe, copyOf, expect, test } from "../fixtures";

const arcsec = (text: string | null) => Number(/([\d.]+)″/.exec(text ?? "")?.[1] ?? Number.NaN);

test("a goal says which part shall be how clean, and every row answers by it", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}`);
  await expect(page.getByTestId("clean-A")).toHaveText(/^\d+(\.\d)?″$/);
  await expect(page.getByTestId("goal-part")).toContainText("outskirts");
  const before = arcsec(await page.getByTestId("clean-A").textContent());
  // The mean is brighter: it is clean at a finer detail.
  await page.getByTestId("goal-part").click();
  await page.getByRole("option", { name: /^body/ }).click();
  await expect.poll(async () => arcsec(await page.getByTestId("clean-A").textContent())).toBeLessThan(before);
  // Half the detail takes four times as long.
  const minutes = async () => {
    const [, h = "0", m = "0"] =
      /^(?:(\d+) h)? ?(?:(\d+) min)?/.exec((await page.getByTestId("goal-A").textContent()) ?? "") ?? [];
    return Number(h) * 60 + Number(m);
  };
  const detail = page.getByTestId("goal-detail");
  await detail.getByRole("slider").focus();
  const coarse = await minutes();
  await page.keyboard.press("PageDown");
  await expect.poll(minutes).toBeGreaterThan(coarse);
  // The chart shows the side, and signal to noise is one step away.
  await expect(page.getByRole("heading", { name: "Clean detail against clock time" })).toBeVisible();
  await page.getByRole("radio", { name: "SNR", exact: true }).click();
  await expect(page.getByRole("heading", { name: "Signal to noise against clock time" })).toBeVisible();
  await expect(page).toHaveURL(/time=snr/);
  // All goals in one place; one that is not wanted is taken out.
  await page.getByRole("button", { name: "3 goals" }).click();
  await axe(page);
  await page.getByRole("checkbox", { name: "[S II]" }).click();
  await expect(page.getByRole("button", { name: "2 goals" })).toBeVisible();
  await page.keyboard.press("Escape");
  // All of it: until the last goal is met.
  await page.getByRole("radio", { name: "All of it" }).click();
  await expect(page.getByTestId("together-A")).toHaveText(/ h| min/);
  await page.getByRole("tab", { name: "Worth" }).click();
  await expect(
    page.getByRole("region", { name: "Worth" }).getByText(/H-alpha \+ \[N II\] and \[O III\]\?$/),
  ).toBeVisible();
  await axe(page);
});

test("three hours with a filter stand against fourteen without", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?row=1&edit=1.sub`);
  await page.getByRole("button", { name: "Give this path a clock of its own" }).click();
  await page.getByTestId("own-clock").fill("3");
  await expect(page.getByTestId("clean-B")).toHaveText(/″/);
  await page.goto(`/bench/${id}?row=2&edit=2.sub`);
  await page.getByRole("button", { name: "Give this path a clock of its own" }).click();
  await page.getByTestId("own-clock").fill("14");
  const row = (letter: string) => page.getByRole("article").filter({ has: page.getByTestId(`clean-${letter}`) });
  await expect(row("C")).toContainText("14 h");
  await expect(row("B")).toContainText("clean in 3 h");
  await expect(page.getByTestId("stage-C-sub")).toContainText("14 h");
  await expect(page.getByTestId("stage-A-sub")).toContainText("of 4 h");
  const side = async (letter: string) => arcsec(await page.getByTestId(`clean-${letter}`).textContent());
  expect(await side("B")).toBeLessThan(await side("C"));
  await expect(page.getByTestId("difference-C")).toContainText(/after 14 h, A at \d+(\.\d)?″ after 4 h/);
});

test("the core of a bright nebula speaks up on the verdict, and can be judged", async ({ strict: page }) => {
  const id = await copyOf(page, "larch-lane-ic-443");
  await page.goto(`/bench/${id}?row=1`);
  await expect(page.getByTestId("clean-B")).toHaveText(/″/);
  await expect(page.getByTestId("verdicts")).not.toContainText("Core");
  const type = async (testId: string, value: string) => {
    await page.getByTestId(`${testId}-value`).click();
    await page.locator(":focus").fill(value);
    await page.keyboard.press("Enter");
  };
  await type("target-brightness", "3000");
  await type("core", "400");
  await expect(page.getByTestId("verdicts")).toContainText("Core");
  await expect(page.getByTestId("verdicts")).toContainText(/clips from .* on/);
  await page.getByTestId("goal-part").click();
  await page.getByRole("option", { name: /^core/ }).click();
  // As fine as seeing and pixels allow.
  await expect.poll(async () => arcsec(await page.getByTestId("clean-B").textContent())).toBeLessThan(5);
});

test("a galaxy's knots are judged in H-alpha, and follow how bright they are", async ({ strict: page }) => {
  const id = await copyOf(page, "heron-lake-ngc-2403");
  await page.goto(`/bench/${id}?q=ha`);
  await expect(page.getByTestId("goal-part")).toContainText("knots");
  const goal = () => page.getByTestId("goal-A").textContent();
  await expect(page.getByTestId("goal-A")).toHaveText(/\d/);
  const before = await goal();
  await page.getByTestId("knots").getByRole("slider").focus();
  await page.keyboard.press("PageUp");
  await expect.poll(goal).not.toBe(before);
});

test("a comparison of before keeps its signal to noise until it is asked for clean detail", async ({
  strict: page,
}) => {
  const stored = await (await page.request.get("/api/v1/scenarios/larch-lane-ic-443")).json();
  const { goals: _, ...old } = stored.scenario;
  const made = await (await page.request.post("/api/v1/scenarios", { data: { ...old, title: "Of before" } })).json();
  await page.goto(`/bench/${made.id}`);
  await expect(page.getByRole("article").first()).toContainText("SNR 20 in");
  await expect(page.getByText("Goal SNR")).toBeVisible();
  await page.getByRole("button", { name: "Ask for clean detail instead" }).click();
  await expect(page.getByTestId("goal-part")).toContainText("outskirts");
  await expect(page.getByRole("article").first()).toContainText("clean at 15″ in");
  await page.keyboard.press("u");
  await expect(page.getByRole("article").first()).toContainText("SNR 20 in");
  await page.request.delete(`/api/v1/scenarios/${made.id}`);
});
