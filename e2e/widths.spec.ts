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

test("names of one unbroken word, and one that turns the direction of reading, leave everything in its place", async ({
  page,
}) => {
  const word = "Pneumonoultramicroscopicsilicovolcanoconiosis".repeat(2);
  const id = await importStudy(page, {
    title: "X".repeat(190),
    factors: [
      { id: "a", name: word, kind: "continuous", low: 50, high: 70, unit: "°C" },
      { id: "b", name: "heat \u202Eturned", kind: "continuous", low: 0, high: 10 },
      ...["c", "d", "e", "f"].map((f) => ({ id: f, name: `${f}${word}`, kind: "continuous", low: 0, high: 10 })),
      { id: "g", name: "Lot", kind: "categorical", levels: ["hill".repeat(15), "lowland"] },
    ],
    responses: [{ id: "y", name: `Y${word}` }, { id: "z" }],
    waves: [{ id: "w", name: word }],
    trials: [60, 52, 68].map((a, i) => ({
      id: `t${i}`,
      wave: "w",
      settings: { a, b: i, c: i, d: i, e: i, f: i, g: i % 2 ? "lowland" : "hill".repeat(15) },
    })),
  });
  await visit(page, id, "bench");
  await expect(page.getByRole("button", { name: /^Next trial/ })).toBeInViewport({ ratio: 1 });
  // The figure stands on one line.
  const figure = await page.getByText("60", { exact: true }).boundingBox();
  expect(figure?.height).toBeLessThan(60);
  for (const width of [1280, 1100]) {
    await page.setViewportSize({ width, height: 800 });
    await visit(page, id, "trials");
    // Columns that scroll begin where the one that stays ends: none is cut there.
    const edges = await page.getByTestId("ledger").evaluate((grid) => {
      const [stays, ...others] = [...grid.querySelectorAll('[role="columnheader"]')].map((h) =>
        h.getBoundingClientRect(),
      );
      return others.map(({ left }) => Math.abs(left - stays.right));
    });
    expect(Math.min(...edges), `${width}`).toBeLessThan(1.5);
    await expect(page.locator("#cell-0-7")).toBeInViewport({ ratio: 0.9 });
  }
  await visit(page, id, "question");
  expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)).toBe(0);
});
