import type { Locator, Page } from "@playwright/test";
import type { Study } from "../src/core/study";
import {
  axe,
  choose,
  expect,
  importStudy,
  openExample,
  readsWell,
  saved,
  stored,
  test,
  visit,
  WORKED_OUT,
} from "./help";

test("hierarchy is a switch: off, a main effect leaves its interaction and that is said; on, it comes back", async ({
  page,
}) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  await page.getByRole("checkbox", { name: "keep parents" }).uncheck();
  const ladder = page.getByTestId("ladder");
  await ladder.locator('[data-key="temp"]').dblclick();
  await expect(ladder.locator('[data-key="temp"]')).toHaveAttribute("aria-selected", "false");
  await expect(page.getByLabel("Readings")).toContainText("without its main effects", { timeout: WORKED_OUT });
  await page.getByRole("tab", { name: "Equation" }).click();
  await expect(page.getByText("stands without what it is made of")).toBeVisible();
  await page.getByRole("checkbox", { name: "keep parents" }).check();
  await expect(page.getByRole("status").filter({ hasText: "came in" })).toContainText("Bowl temperature");
  await expect(ladder.locator('[data-key="temp"]')).toHaveAttribute("aria-selected", "true");
  await saved(page);
  const model = (await stored(page, id)).study.models.find((m) => (m as { response: string }).response === "grease");
  expect(model).not.toHaveProperty("hierarchy");
});

test("by keyboard alone: a term goes out and comes back, figures follow, the rung keeps its place", async ({
  page,
}) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  const ladder = page.getByTestId("ladder");
  await ladder.focus();
  const before = (await page.getByTestId("summary").textContent()) ?? "";
  for (let i = 0; i < 5; i++) await page.keyboard.press("ArrowDown");
  const rung = ladder.locator('[aria-current="true"]');
  const key = await rung.getAttribute("data-key");
  await expect(rung).toHaveAttribute("aria-selected", "true");
  await page.keyboard.press("Space");
  await expect(ladder.locator(`[data-key="${key}"]`)).toHaveAttribute("aria-selected", "false");
  await expect(ladder.locator('[aria-current="true"]')).toHaveAttribute("data-key", key ?? "");
  await expect(page.getByTestId("summary")).not.toHaveText(before);
  await page.keyboard.press("Space");
  await expect(page.getByTestId("summary")).toHaveText(before);
  await saved(page);
});

test("a parent stays for its interaction; a term brings its parents; one that is aliased says so", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  const ladder = page.getByTestId("ladder");
  // Rungs are drawn where they are in sight: scrolled to from the top as a person would.
  const rung = async (key: string): Promise<Locator> => {
    const found = ladder.locator(`[data-key="${key}"]`);
    await ladder.evaluate((el) => el.scrollTo(0, 0));
    await expect(async () => {
      if ((await found.count()) === 0) await ladder.evaluate((el) => el.scrollBy(0, 300));
      await expect(found).toBeVisible({ timeout: 500 });
    }).toPass();
    return found;
  };
  await (await rung("temp")).dblclick();
  await expect(page.getByRole("status").filter({ hasText: "stays" })).toContainText(
    "Bowl temperature × Detergent needs it",
  );
  await (await rung("feed*squeeze")).dblclick();
  await expect(page.getByRole("status").filter({ hasText: "came in too" })).toContainText("Squeeze");
  await (await rung("soda*squeeze")).dblclick();
  await expect(page.getByRole("status").filter({ hasText: "cannot be estimated" })).toContainText(
    "Bowl temperature × Detergent",
  );
  await saved(page);
  expect((await stored(page, id)).study.models.find((m) => m.response === "grease")?.terms).toContainEqual([
    "feed",
    "squeeze",
  ]);
});

test("every view opens, reads well and passes axe; readings lead to their evidence", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  for (const view of ["Map", "Pairs", "Corners", "Half-normal", "Checks", "Rivals", "Table", "Equation", "Shares"]) {
    await page.getByRole("tab", { name: view }).click();
    await expect(page.getByRole("tabpanel", { name: view })).toBeVisible();
    await readsWell(page);
    expect(await axe(page)).toEqual([]);
  }
  await page.locator('[data-reading^="together"]').getByRole("button", { name: "show" }).click();
  await expect(page.getByRole("tab", { name: "Pairs" })).toHaveAttribute("aria-selected", "true");
  await page.getByRole("button", { name: "All responses" }).click();
  await expect(page.getByRole("main")).toContainText("R² predicted");
  expect(await axe(page)).toEqual([]);
});

test("half-normal points take terms in and out; reducing can be walked back", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  const steps = page.getByLabel("Steps to this model").getByRole("button");
  await expect(steps.first()).toContainText("at first");
  const before = await steps.count();
  await page.getByRole("button", { name: "Reduce" }).click();
  await page.getByRole("tooltip").getByRole("button", { name: "Reduce", exact: true }).click();
  await expect(steps.nth(before)).toContainText("all 23 it can estimate");
  const after = (await page.getByTestId("summary").textContent()) ?? "";
  await steps.nth(1).click();
  await expect(page.getByTestId("summary")).not.toHaveText(after);
  await steps.nth(before - 1).click();
  await page.getByRole("tab", { name: "Half-normal" }).click();
  const point = page.getByRole("button", { name: /^Feed:.*in the model/ });
  await point.focus();
  await page.keyboard.press("Space");
  await expect(page.getByRole("button", { name: /^Feed:/ })).toHaveAttribute("aria-pressed", "false");
  await saved(page);
});

test("the probe moves by keys and every response follows", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  const others = page.locator("aside").first().locator("table");
  const before = (await others.textContent()) ?? "";
  await page.getByRole("slider", { name: "Bowl temperature at the probe" }).focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  await expect(others).not.toHaveText(before);
});

test("rivals: all subsets searched, one used, several kept and averaged everywhere", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Rivals" }).click();
  const best = page.getByTestId("rivals");
  await expect(best).toContainText("the present model", { timeout: WORKED_OUT });
  await choose(page, "Criterion", "r2Predicted");
  await expect(page.getByRole("tabpanel")).toContainText("predicted R²");
  await choose(page, "Criterion", "aicc");
  await page.getByRole("button", { name: "keep all as good as the best" }).click();
  const probe = page.locator("aside").first();
  const before = (await probe.textContent()) ?? "";
  await choose(page, "Predict with", "akaike");
  await expect(probe).not.toHaveText(before);
  await saved(page);
  const kept = (await stored(page, id)).study.models.find((m) => m.response === "grease") as unknown as {
    average: string;
    rivals: unknown[];
  };
  expect(kept.average).toBe("akaike");
  expect(kept.rivals.length).toBeGreaterThan(1);
  await best.getByRole("button", { name: "use" }).first().click();
  // It stands beside the way that led to the model before.
  await expect(page.getByLabel("Steps to this model").locator('[aria-current="true"]')).toHaveCount(0);
  await saved(page);
  await readsWell(page);
});

test("the spread of repeats becomes a response with a model of its own", async ({ page }) => {
  const id = await openExample(page, "nickel-screening");
  await visit(page, id, "model");
  await page.getByRole("button", { name: "Model its spread" }).click();
  await expect(page.getByRole("main").getByRole("button", { name: /^Spread of/ })).toHaveAttribute(
    "aria-pressed",
    "true",
  );
  await expect(page.getByTestId("summary")).toContainText("R²");
  await saved(page);
  await readsWell(page);
  await visit(page, id, "trials");
  await expect(page.getByRole("columnheader", { name: /Spread of/ })).toHaveCount(0);
});

test("another scale: chosen among the checks, predictions come back in the response's own unit", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Checks" }).click();
  await page.getByRole("button", { name: /Would another scale fit better/ }).click();
  await page.getByRole("button", { name: /^log −/ }).click();
  await saved(page);
  const grease = (await stored(page, id)).study.models.find((m) => m.response === "grease") as unknown as {
    transform: string;
  };
  expect(grease.transform).toBe("log");
  await expect(page.locator("aside").first()).toContainText("%");
  await readsWell(page);
});

test("corners move the probe by keyboard; the surface turns; terms are copied between responses", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Corners" }).click();
  const corner = page.getByRole("button", { name: /move the probe to/ }).first();
  await corner.focus();
  const probe = page.locator("aside").first();
  const before = (await probe.textContent()) ?? "";
  await page.keyboard.press("Enter");
  await expect(probe).not.toHaveText(before);
  await page.getByRole("tab", { name: "Map" }).click();
  await choose(page, "Drawn as", "surface");
  const relief = page.getByRole("application", { name: /as a surface/ });
  const drawn = await relief.innerHTML();
  await relief.focus();
  await page.keyboard.press("ArrowLeft");
  await expect.poll(() => relief.innerHTML()).not.toBe(drawn);
  await page.getByRole("button", { name: "All responses" }).click();
  await page.getByRole("button", { name: "copy terms" }).first().click();
  await page.getByRole("button", { name: "put here" }).first().click();
  await saved(page);
  const { models } = (await stored(page, id)).study;
  expect(models.find((m) => m.response === "white")?.terms).toEqual(models.find((m) => m.response === "grease")?.terms);
});

/** Three lots in two waves, two trials a cell: lots lie 1 above, at and 1 below the middle, waves 1 below and above, ±0.1 apart. */
const balanced = {
  factors: [
    { id: "lot", name: "Wool lot", kind: "categorical", levels: ["hill", "lowland", "moor"] },
    { id: "heat", name: "Heat", kind: "continuous", low: 10, high: 20, unit: "°C" },
  ],
  responses: [{ id: "y", name: "Yield", unit: "%" }],
  waves: [{ id: "w1" }, { id: "w2" }],
  trials: ["w1", "w2"].flatMap((wave, w) =>
    ["hill", "lowland", "moor"].flatMap((lot, l) =>
      [-0.1, 0.1].map((e, r) => ({
        id: `${wave}${lot}${r}`,
        wave,
        state: "done",
        settings: { lot, heat: (w + l + r) % 2 ? 10 : 20 },
        results: { y: 10 + 1 - l + (w ? 1 : -1) + e },
      })),
    ),
  ),
  models: [{ response: "y", terms: [["lot"]] }],
};

test("a category of three levels in two waves; a trial left out with its reason changes the figures and comes back", async ({
  page,
}) => {
  const id = await importStudy(page, balanced);
  await visit(page, id, "model");
  // By hand: waves 12, lots 8, residual 0.12 on 8 df; s = √0.015, R² = 20/20.12, F of lots (8/2)/0.015 = 266.67.
  const summary = page.getByTestId("summary");
  await expect(summary).toContainText("R² 0.994");
  await expect(summary).toContainText("s 0.122 %");
  await expect(summary).toContainText("df 8");
  await page.getByRole("tab", { name: "Table" }).click();
  const table = page.getByRole("tabpanel", { name: "Table" });
  await expect(table.getByRole("row", { name: /^Wool lot/ }).last()).toContainText("266.67");
  await expect(table.getByRole("row", { name: /^waves/ })).toContainText("12");
  await expect(page.locator("aside").last()).toContainText(/Wave 2 lies 2\.0\d* points above/);
  await page.getByRole("tab", { name: "Equation" }).click();
  await expect(page.getByRole("tabpanel", { name: "Equation" })).toContainText("moor");
  // A trial 5 off is named as what rules the fit; left out, the figures are those without it.
  await visit(page, id, "trials");
  await page.getByLabel("Menu of trial 1", { exact: true }).click();
  await page.getByRole("menuitem", { name: "Leave out of models" }).click();
  await page.getByLabel("Reason").fill("dryer door open");
  await page.getByRole("button", { name: "Leave it out" }).click();
  await saved(page);
  await page.keyboard.press("g");
  await page.keyboard.press("m");
  await expect(summary).toContainText("df 7");
  const left = (await stored(page, id)).study.trials.find((t) => !t.use) as unknown as {
    why: string;
    results: { y: number };
  };
  expect([left.why, left.results.y]).toEqual(["dryer door open", 9.9]);
  await page.keyboard.press("g");
  await page.keyboard.press("t");
  await page.getByLabel("Menu of trial 1", { exact: true }).click();
  await page.getByRole("menuitem", { name: "Use in models again" }).click();
  await page.keyboard.press("g");
  await page.keyboard.press("m");
  await expect(summary).toContainText("df 8");
  await expect(summary).toContainText("s 0.122 %");
  await saved(page);
});

test("the ladder draws the rungs in sight and reaches the last of a hundred and more by keys", async ({ page }) => {
  const ids = Array.from({ length: 15 }, (_, i) => `f${i}`);
  const id = await importStudy(page, {
    factors: ids.map((f, i) => ({ id: f, name: `Setting ${i + 1}`, kind: "continuous", low: -1, high: 1 })),
    responses: [{ id: "y" }],
    waves: [{ id: "w" }],
    trials: Array.from({ length: 40 }, (_, i) => ({
      id: `t${i}`,
      wave: "w",
      state: "done",
      settings: Object.fromEntries(ids.map((f, j) => [f, Math.sin((i + 1) * (j + 2) * 1.3) > 0 ? 1 : -1])),
      results: { y: Math.cos(i * 1.7) * 4 },
    })),
  });
  await visit(page, id, "model");
  const ladder = page.getByTestId("ladder");
  await page.getByRole("button", { name: /quiet terms/ }).click();
  await ladder.focus();
  const drawn = (): Promise<number> => ladder.locator('[role="option"]').count();
  expect(await drawn()).toBeLessThan(40);
  await page.keyboard.press("End");
  const last = ladder.locator('[aria-current="true"]');
  await expect(last).toBeInViewport();
  const size = Number(await last.getAttribute("aria-setsize"));
  expect(size).toBeGreaterThan(100);
  expect(await last.getAttribute("aria-posinset")).toBe(String(size));
  expect(await drawn()).toBeLessThan(40);
  await page.keyboard.press("Home");
  await expect(ladder.locator('[aria-posinset="1"]')).toBeInViewport();
  expect(await axe(page)).toEqual([]);
});

test("waves go out of the model and come back by a switch", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  const before = (await page.getByTestId("summary").textContent()) ?? "";
  const waves = page.getByRole("switch", { name: /^Waves/ });
  await expect(waves).toBeChecked();
  await waves.focus();
  await page.keyboard.press("Space");
  await expect(waves).not.toBeChecked();
  await expect(page.getByTestId("summary")).not.toHaveText(before);
  await saved(page);
  expect((await stored(page, id)).study.models[0]).toMatchObject({ response: "grease", block: false });
  await waves.click();
  await expect(page.getByTestId("summary")).toHaveText(before);
});

/** The example's first wave alone: corners and centre, models without squares. */
async function openFirstWave(page: Page): Promise<string> {
  const id = await openExample(page);
  const { study } = (await stored(page, id)) as unknown as { study: Study };
  const first = study.waves[0].id;
  const corners = {
    ...study,
    title: "First wave",
    waves: study.waves.slice(0, 1),
    trials: study.trials.filter((t) => t.wave === first),
    models: study.models.map((m) => ({ ...m, terms: m.terms.filter((t) => t.length !== 2 || t[0] !== t[1]) })),
    setpoint: undefined,
  };
  return importStudy(page, JSON.parse(JSON.stringify(corners)));
}

test("curvature is a rung: out it counts as lack of fit, in it says how far the centre lies off the plane", async ({
  page,
}) => {
  const id = await openFirstWave(page);
  await visit(page, id, "model");
  const curvature = page.getByRole("switch", { name: /^Curvature/ });
  await expect(curvature).toBeChecked();
  await expect(page.locator('[data-reading="curvature"]')).toContainText("the plane of the corners");
  await expect(page.locator("aside").first()).toContainText("A bend is seen at the centre");
  const before = (await page.getByTestId("summary").textContent()) ?? "";
  await curvature.focus();
  await page.keyboard.press("Space");
  await expect(curvature).not.toBeChecked();
  await expect(page.getByTestId("summary")).not.toHaveText(before);
  await page.getByRole("tab", { name: "Table" }).click();
  await expect(page.getByRole("tabpanel")).toContainText("lack of fit");
  await expect(page.getByRole("tabpanel").getByRole("cell", { name: "curvature", exact: true })).toHaveCount(0);
  await curvature.click();
  await expect(page.getByTestId("summary")).toHaveText(before);
  await expect(page.getByRole("tabpanel").getByRole("cell", { name: "curvature", exact: true })).toHaveCount(2);
  expect(await axe(page)).toEqual([]);
});

test("one press reduces all responses, and the steps stand with their criterion when the study is opened again", async ({
  page,
}) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  await page.getByRole("button", { name: "Reduce" }).click();
  await choose(page, "reduce by", "bic");
  await page.getByRole("button", { name: "Reduce all responses" }).click();
  const steps = page.getByLabel("Steps to this model").getByRole("button");
  await expect(steps.filter({ hasText: "by BIC" }).first()).toBeVisible();
  const count = await steps.count();
  await saved(page);
  await page.reload();
  await expect(steps).toHaveCount(count);
  await expect(steps.filter({ hasText: "by BIC" }).first()).toBeVisible();
  const { study } = await stored(page, id);
  expect(study.models.filter((m) => ((m as { steps?: unknown[] }).steps ?? []).length > 1).length).toBeGreaterThan(1);
});

test("confidence is set on Model as typed and governs intervals; what is none is refused and kept", async ({
  page,
}) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Table" }).click();
  await expect(page.getByRole("tabpanel")).toContainText("95 %");
  const field = page.getByLabel("Confidence of the study");
  await field.fill("99");
  await field.press("Enter");
  await expect(page.getByRole("tabpanel")).toContainText("99 %");
  await saved(page);
  expect((await stored(page, id)).study).toMatchObject({ confidence: 0.99 });
  await field.fill("12");
  await field.press("Enter");
  await expect(field).toHaveValue("12");
  await expect(page.getByText("is not a confidence between 50 and 100 %").first()).toBeVisible();
});

for (const width of [1024, 1190])
  test(`at ${width} px the views stand below the ladder at a height of their own, nothing is wider than the window`, async ({
    page,
  }) => {
    const id = await openExample(page);
    await page.setViewportSize({ width, height: 768 });
    await visit(page, id, "model");
    for (const view of ["Map", "Table", "Rivals"]) {
      await page.getByRole("tab", { name: view }).click();
      const box = await page.getByRole("tabpanel", { name: view }).boundingBox();
      expect(box?.height).toBeGreaterThan(380);
    }
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(width);
  });
