import { axe, expect, importStudy, openExample, test, visit } from "./help";

const STATIONS = ["question", "plan", "trials", "model", "setpoint", "report", "history"];
/** 640 is a laptop's window at twice its size. */
const WIDTHS = [640, 1024, 1280, 1500, 1920];

for (const width of WIDTHS)
  test(`at ${width} px no station is wider than the window, and no view has lost its height`, async ({ page }) => {
    await page.setViewportSize({ width, height: 800 });
    const id = await openExample(page);
    for (const station of STATIONS) {
      await visit(page, id, station);
      if (station === "setpoint") await page.getByTestId("desirability-map").waitFor();
      const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
      expect(over, station).toBeLessThanOrEqual(0);
      // A laptop's window at twice its size reads well to a screen reader too.
      if (width === 640) expect(await axe(page), station).toEqual([]);
      if (station !== "model" || width === 1280) continue;
      for (const view of ["Map", "Residuals", "Working", "Checks"]) {
        await page.getByRole("tab", { name: view, exact: true }).click();
        const panel = page.getByRole("tabpanel", { name: view });
        await expect(panel).toBeVisible();
        expect((await panel.boundingBox())?.height, view).toBeGreaterThan(200);
        // No drawing stands past its panel.
        const past = await panel.evaluate((e) => {
          const right = e.getBoundingClientRect().right + 1;
          return [...e.querySelectorAll("svg")].filter((s) => s.getBoundingClientRect().right > right).length;
        });
        expect(past, view).toBe(0);
      }
    }
  });

test("one key gives the view the page and takes it back; below 1200 px readings stand as their counts", async ({
  page,
}) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  const panel = page.getByRole("tabpanel", { name: "Map" });
  const before = (await panel.boundingBox())?.width ?? 0;
  await page.keyboard.press("w");
  await expect(page.getByTestId("ladder")).toBeHidden();
  expect((await panel.boundingBox())?.width).toBeGreaterThan(2 * before);
  await page.keyboard.press("w");
  await expect(page.getByTestId("ladder")).toBeVisible();
  await page.setViewportSize({ width: 1100, height: 800 });
  await visit(page, id, "model");
  await expect(page.getByRole("button", { name: /\d findings? · \d cautions?/ })).toBeVisible();
});

test("fifteen factors and five hundred trials stand in the window too", async ({ page }) => {
  const letters = Array.from({ length: 15 }, (_, i) => `Factor with a rather long name ${i + 1}`);
  const id = await importStudy(page, {
    factors: letters.map((name, i) => ({ id: `f${i}`, name, kind: "continuous", low: 0, high: 10, unit: "mm" })),
    responses: [{ id: "y", name: "Distance between the two marks after the second pass", unit: "µm" }],
    waves: [{ id: "w" }],
    trials: Array.from({ length: 500 }, (_, t) => ({
      id: `t${t}`,
      wave: "w",
      state: "done",
      settings: Object.fromEntries(letters.map((_, i) => [`f${i}`, (t >> (i % 9)) & 1 ? 10 : 0])),
      results: { y: 100 + (t % 7) + 3 * (t & 1) },
    })),
  });
  for (const station of ["trials", "model"]) {
    await visit(page, id, station);
    const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(over, station).toBeLessThanOrEqual(0);
  }
});
