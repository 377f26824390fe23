// One entry a picture: a name, an address, and what to do before it is taken.
const bench = "/bench/larch-lane-ic-443";
export const shots = [
  { name: "bench", path: `${bench}?row=1` },
  { name: "bench-sub", path: `${bench}?row=1&chart=sub`, viewport: { width: 1280, height: 1120 } },
  { name: "bench-gain", path: `${bench}?row=0&chart=gain`, viewport: { width: 1280, height: 860 } },
  { name: "bench-look", path: `${bench}?row=1&chart=look&moon=60_35_60`, viewport: { width: 1280, height: 1700 } },
  {
    name: "bench-worth",
    path: `${bench}?row=0&chart=worth`,
    viewport: { width: 1280, height: 1040 },
    theme: "daylight",
  },
  { name: "report", path: `${bench}/report`, viewport: { width: 1000, height: 1180 } },
  {
    name: "night",
    path: "/night?campaign=ic-443-winter&date=2027-01-28&then=b:heron-lake-ngc-2403:0%7Cbest_use",
    act: (page) => page.getByTestId("block-2-0").waitFor(),
  },
  { name: "campaign", path: "/campaign" },
  {
    name: "trials",
    path: "/trials?id=two-3-nm-sets",
    // Played by the stand-in, and its frames brought in, where that has not been done yet.
    act: async (page) => {
      if ((await page.getByTestId("trial-headline").count()) === 0) {
        await page.getByRole("button", { name: "Play it by the stand-in" }).click();
        let frames = 0;
        while (frames < 20) {
          await page.waitForTimeout(2000);
          const all = await (await page.request.get("/api/v1/log/sessions?text=NGC+281&from=&to=")).json();
          frames = all.reduce((sum, night) => sum + night.frames, 0);
        }
        await page.getByTestId("trial-night").click();
        await page.getByRole("option", { name: /NGC 281/ }).click();
        await page.getByTestId("marking").waitFor();
        await page.getByRole("button", { name: "Bring its frames in" }).click();
      }
      await page.getByTestId("trial-headline").waitFor({ timeout: 60_000 });
      await page.getByText("frames are in the trial").waitFor({ state: "detached" });
    },
  },
  // The demo plays its night at its first start: ask once it is there.
  { name: "log", path: "/log", act: (page) => page.getByTestId("frame-table").waitFor({ timeout: 120_000 }) },
  {
    name: "now",
    path: "/now?campaign=ic-443-winter&at=1795164600",
    act: async (page) => {
      await page.getByRole("button", { name: "Re-plan from now" }).click();
      await page.getByTestId("countdown").waitFor();
      // The message that it can be taken back goes by itself.
      await page.waitForTimeout(9000);
    },
  },
  { name: "bench-filters", path: `${bench}?row=1&chart=filters` },
  { name: "bench-spectrum", path: `${bench}?row=1&chart=spectrum&moon=60_35_80` },
  { name: "bench-bandwidth", path: `${bench}?row=1&chart=bandwidth`, theme: "daylight" },
  { name: "tonight", path: "/tonight?date=2027-01-08" },
  { name: "kit-rig", path: "/kit?kind=rig&id=reflector-colour" },
  {
    name: "targets",
    path: "/targets?object=IC+1805&with=IC+1848&list=tonight",
    viewport: { width: 1280, height: 1080 },
    act: async (page) => {
      await page.getByTestId("tonight-list").locator("li").first().waitFor();
      await page.getByTestId("field-stars").waitFor();
      await page
        .getByText(/3 times the time of one/)
        .first()
        .waitFor();
      await page.getByRole("img", { name: /^Where IC 1805 lies/ }).waitFor();
    },
  },
  { name: "shelf", path: "/kit?kind=filter&id=uhc&compare=dual-7,uhc,sodium-notch" },
  { name: "kit-to-buy", path: "/kit/to-buy?places=larch-lane.40,heron-lake.10" },
];
