import { readFileSync } from "node:fs";
import { axe, choose, expect, importStudy, openExample, saved, stored, test, visit, WORKED_OUT } from "./help";

/** A square run twice: totals 42, 58, 50 and 84, worked out on paper in the unit test of the working. */
const square = {
  factors: ["a", "b"].map((id) => ({ id, name: id === "a" ? "Heat" : "Dose", kind: "continuous", low: -1, high: 1 })),
  responses: [{ id: "y", name: "Yield", unit: "kg" }],
  waves: [{ id: "w" }],
  trials: [
    [-1, -1, 20],
    [-1, -1, 22],
    [1, -1, 30],
    [1, -1, 28],
    [-1, 1, 24],
    [-1, 1, 26],
    [1, 1, 40],
    [1, 1, 44],
  ].map(([a, b, y], i) => ({ id: `t${i + 1}`, wave: "w", state: "done", settings: { a, b }, results: { y } })),
};

test("effects are worked out by hand, whole: sums, divisor, pooled variance, t and p", async ({ page }) => {
  const id = await importStudy(page, square);
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Working" }).click();
  const heat = page.getByRole("table", { name: "Effects by hand" }).getByRole("row", { name: /^Heat 142/ });
  await expect(heat).toContainText("142");
  await expect(heat).toContainText("92");
  await expect(heat).toContainText("12.5");
  await expect(heat).toContainText("under 0.001");
  await expect(page.getByText("Pooled variance: 14 / 4 = 3.5")).toBeVisible();
  // Totals of the repeats at the four corners, as a sheet takes them.
  const [sheet] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "Working as CSV" }).click(),
  ]);
  expect(sheet.suggestedFilename()).toBe("Working.csv");
  const lines = readFileSync(await sheet.path(), "utf8").split(/\r?\n/);
  expect(lines[0]).toMatch(/^trials,.*,results,total,variance$/);
  expect(lines.slice(1, 5).map((l) => Number(l.split(",").at(-2)))).toEqual([42, 58, 50, 84]);
  await choose(page, "Effect to follow", "b");
  await expect(page.getByTestId("working-sentences")).toContainText("Dose: results at + add up to 134");
  expect(await axe(page)).toEqual([]);
});

test("residuals of every kind against anything; a planted outlier is named and leads to its trial", async ({
  page,
}) => {
  const id = await importStudy(page, {
    ...square,
    trials: [...square.trials, ...square.trials].map((t, i) => ({
      ...t,
      id: `t${i + 1}`,
      results: { y: t.results.y + (i === 9 ? 25 : 0) },
    })),
  });
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Residuals" }).click();
  await expect(page.getByTestId("flagged")).toContainText("trial 10");
  await choose(page, "Kind of residual", "cooks");
  await choose(page, "Against", "a");
  await expect(page.getByRole("img", { name: "Cook's distance against Heat" })).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await page.getByTestId("flagged").getByRole("button", { name: "trial 10" }).click();
  await page.waitForURL(/trials$/);
});

test("a small dot is meant from beside it, and said with its trial; away from all of them none is", async ({
  page,
}) => {
  const id = await importStudy(page, square);
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Residuals" }).click();
  const chart = page.getByRole("img", { name: "deleted against trial in run order" });
  const dots = chart.locator("circle");
  await expect(dots).toHaveCount(8);
  const small = await dots.nth(4).getAttribute("r");
  const at = await dots.nth(4).boundingBox();
  if (!at) throw new Error("no dot");
  // Nine pixels beside its centre, past its edge.
  await page.mouse.move(at.x + at.width / 2 + 9, at.y + at.height / 2);
  await expect(dots.nth(4)).toHaveAttribute("r", "6");
  await expect(chart.locator("rect > title")).toHaveText(/^Trial 5: /);
  await page.mouse.move(5, 5);
  await expect(dots.nth(4)).toHaveAttribute("r", small ?? "");
  await expect(chart.locator("rect > title")).toHaveCount(0);
});

test("a finger drags the probe along its rule and over the map, as a mouse does", async ({
  browser,
  baseURL,
  page,
}) => {
  const id = await importStudy(page, square);
  const context = await browser.newContext({
    ...(baseURL === undefined ? {} : { baseURL }),
    viewport: { width: 1280, height: 800 },
    hasTouch: true,
  });
  const tablet = await context.newPage();
  await visit(tablet, id, "model");
  const client = await context.newCDPSession(tablet);
  const touch = (type: "touchStart" | "touchMove" | "touchEnd", x: number, y: number): Promise<unknown> =>
    client.send("Input.dispatchTouchEvent", { type, touchPoints: type === "touchEnd" ? [] : [{ x, y }] });
  const rule = tablet.getByRole("slider", { name: "Heat at the probe" });
  const box = await rule.boundingBox();
  if (!box) throw new Error("no rule");
  const middle = box.y + box.height / 2;
  await touch("touchStart", box.x + box.width / 2, middle);
  // Every step redraws the rule; the finger keeps its hold.
  for (let step = 1; step <= 5; step++) await touch("touchMove", box.x + box.width * (0.5 + 0.08 * step), middle);
  await touch("touchEnd", 0, 0);
  expect(Number(await rule.getAttribute("aria-valuenow"))).toBeGreaterThan(0.7);
  const map = tablet.getByRole("application", { name: /over Heat and Dose/ });
  const over = await map.boundingBox();
  if (!over) throw new Error("no map");
  await touch("touchStart", over.x + over.width * 0.5, over.y + over.height * 0.5);
  await touch("touchMove", over.x + over.width * 0.4, over.y + over.height * 0.7);
  await touch("touchMove", over.x + over.width * 0.3, over.y + over.height * 0.7);
  await touch("touchEnd", 0, 0);
  await expect.poll(async () => Number(await rule.getAttribute("aria-valuenow"))).toBeLessThan(0);
  await context.close();
});

test("the surface says where it is level, what it is like there, and the path from the probe", async ({ page }) => {
  // y = 50 − 4(a − 0.5)² − 2b²: a maximum of 50 at 0.5 and 0.
  const points = [-1, 0, 1].flatMap((a) => [-1, 0, 1].map((b) => ({ a, b })));
  const id = await importStudy(page, {
    ...square,
    trials: points.map(({ a, b }, i) => ({
      id: `t${i + 1}`,
      wave: "w",
      state: "done",
      settings: { a, b },
      results: { y: 50 - 4 * (a - 0.5) ** 2 - 2 * b ** 2 + (i % 2 ? 0.001 : -0.001) },
    })),
    models: [{ response: "y", terms: [["a"], ["b"], ["a", "a"], ["b", "b"]] }],
  });
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Surface" }).click();
  const level = page.getByTestId("stationary");
  await expect(level).toContainText("Heat 0.5");
  await expect(level).toContainText("a maximum");
  await expect(page.getByRole("table", { name: "Directions of the surface" })).toContainText("falls off");
  await expect(page.getByRole("region", { name: "Path of steepest ascent" })).toBeVisible();
  expect(await axe(page)).toEqual([]);
});

test("aliasing stands in numbers beside the power at stated changes", async ({ page }) => {
  const made = await page.request.post("/api/studies", { data: { example: "wool-scouring", questionOnly: true } });
  const id = ((await made.json()) as { id: string }).id;
  await visit(page, id, "plan");
  await page.locator('[data-searching="no"]').waitFor({ timeout: WORKED_OUT });
  await page.getByText("main effects", { exact: true }).click();
  await page.locator('[data-plan*="fraction"]').first().click();
  await page.getByRole("button", { name: /Aliasing$/ }).click();
  // Of a regular fraction alias coefficients are 0, 1 or −1.
  const figures = page.getByRole("region", { name: /Alias coefficients of plan/ }).last();
  await expect(figures).toBeVisible();
  await page.getByText("inflation and error", { exact: true }).click();
  await expect(page.getByRole("region", { name: "Inflation and standard error by term" })).toContainText("VIF");
  await page.getByRole("button", { name: /Power$/ }).click();
  const power = page.getByRole("table", { name: "Power of the plans picked" });
  await expect(power).toContainText("sees at power 0.95");
  await page.getByLabel("Changes of the power table").fill("1; 2");
  await expect(power).toContainText("power at 2");
  await page.getByLabel("Changes of the power table").fill("none");
  await expect(page.getByText("Type changes above 0, with semicolons between them.")).toBeVisible();
  expect(await axe(page)).toEqual([]);
});

test("what was asked on Plan stays when one leaves and comes back", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "plan");
  await page.getByLabel("up to").fill("24");
  await page.getByText("main effects", { exact: true }).click();
  await page.getByRole("link", { name: /^Trials/ }).click();
  await page.waitForURL(/trials$/);
  await page.getByRole("link", { name: /^Plan/ }).click();
  await page.waitForURL(/plan$/);
  await expect(page.getByLabel("up to")).toHaveValue("24");
  await expect(page.getByRole("radio", { name: "main effects" })).toBeChecked();
});

test("shares: a seam is moved by keys, a share is typed, what is none is refused and stays", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "setpoint");
  const seam = page.getByRole("slider", { name: /^Between Residual grease and Whiteness/ });
  const before = Number(await seam.getAttribute("aria-valuenow"));
  await seam.focus();
  await page.keyboard.press("Shift+ArrowRight");
  await expect(seam).toHaveAttribute("aria-valuenow", String(before + 5));
  await saved(page);
  const typed = page.getByLabel("Whiteness: importance");
  await typed.fill("50 %");
  await typed.press("Enter");
  await saved(page);
  const { responses } = (await stored(page, id)).study as never as {
    responses: { name: string; importance: number }[];
  };
  const all = responses.reduce((t, r) => t + r.importance, 0);
  const whiteness = responses.find((r) => r.name.startsWith("Whiteness"));
  expect((whiteness?.importance ?? 0) / all).toBeCloseTo(0.5, 3);
  await typed.fill("all");
  await typed.press("Enter");
  await expect(typed).toHaveAttribute("aria-invalid", "true");
  await expect(typed).toHaveValue("all");
});

test("the probe's rules are graduated in the response and move it by keys; the probe itself can be chosen", async ({
  page,
}) => {
  const id = await openExample(page);
  await visit(page, id, "setpoint");
  const rule = page.getByRole("slider", { name: "Bowl temperature at the probe" });
  // Graduations are labelled with round values of residual grease.
  await expect(
    rule
      .locator("text")
      .filter({ hasText: /^0\.\d+$/ })
      .first(),
  ).toBeVisible();
  await expect(page.getByRole("slider", { name: "Squeeze at the probe" })).toContainText("no effect here");
  const before = Number(await rule.getAttribute("aria-valuenow"));
  await rule.focus();
  await page.keyboard.press("ArrowLeft");
  await expect(rule).toHaveAttribute("aria-valuenow", String(before - 1));
  await page.getByRole("button", { name: "Choose the probe" }).click();
  await saved(page);
  const { setpoint } = (await stored(page, id)).study as never as { setpoint: { settings: Record<string, number> } };
  expect(Object.values(setpoint.settings)).toContain(before - 1);
});

test("no table that is saved or copied holds a cell that a spreadsheet would run", async ({ page, context }) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  const odd = {
    ...square,
    factors: [
      { id: "a", name: "=Heat", kind: "continuous", low: -1, high: 1 },
      { id: "b", name: "@Dose", kind: "continuous", low: -1, high: 1 },
      { id: "c", name: "+Lot", kind: "categorical", levels: ["=1+1", "-2+3"] },
    ],
    responses: [
      { id: "y", name: "-Yield", unit: "=kg", goal: { aim: "raise", low: 20, high: 40 }, noise: 1, smallest: 4 },
    ],
    trials: [...square.trials, ...square.trials].map((t, i) => ({
      ...t,
      id: `t${i + 1}`,
      settings: { ...t.settings, c: i % 2 ? "=1+1" : "-2+3" },
      results: { y: t.results.y + (i % 3) },
    })),
    models: [{ response: "y", terms: [["a"], ["b"], ["c"]] }],
  };
  const id = await importStudy(page, odd);
  const runs = (text: string): string[] =>
    text
      .split(/\r?\n|\t|,(?=(?:[^"]*"[^"]*")*[^"]*$)/)
      .map((c) => c.replace(/^"|"$/g, ""))
      .filter((c) => /^\s*[=+\-@]/.test(c) && !Number.isFinite(Number(c)));
  const seen = new Set<string>();
  const take = async (): Promise<void> => {
    for (const button of await page.getByRole("button", { name: /as CSV$/ }).all()) {
      const name = (await button.getAttribute("aria-label")) ?? "";
      const [sheet] = await Promise.all([page.waitForEvent("download"), button.click()]);
      expect(runs(readFileSync(await sheet.path(), "utf8")), name).toEqual([]);
      // The copy beside it is the same rows.
      await button.locator("xpath=preceding-sibling::*[normalize-space()='copy']").click();
      await expect.poll(async () => page.evaluate(() => navigator.clipboard.readText())).not.toBe("");
      expect(runs(await page.evaluate(() => navigator.clipboard.readText())), name).toEqual([]);
      seen.add(name.replace(/ as CSV$/, ""));
    }
  };
  await visit(page, id, "model");
  const views = {
    Working: "Working",
    Table: "Coefficients",
    Equation: "Equation",
    Residuals: "Residuals",
    Shares: "Shares",
  };
  for (const [view, table] of Object.entries(views)) {
    await page.getByRole("tab", { name: view, exact: true }).click();
    await expect(page.getByRole("button", { name: `${table} as CSV`, exact: true })).toBeVisible();
    await take();
    expect([...seen]).toContain(table);
  }
});
