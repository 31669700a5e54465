import { axe, expect, openExample, readsWell, saved, stored, test, visit } from "./help";

test("by keyboard alone: a term goes out and comes back, figures follow, the rung keeps its place", async ({ page }) => {
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
  await ladder.locator('[data-key="temp"]').dblclick();
  await expect(page.getByRole("status").filter({ hasText: "stays" })).toContainText("Bowl temperature × Detergent needs it");
  await ladder.locator('[data-key="feed*squeeze"]').dblclick();
  await expect(page.getByRole("status").filter({ hasText: "came in too" })).toContainText("Squeeze");
  await ladder.locator('[data-key="soda*squeeze"]').dblclick();
  await expect(page.getByRole("status").filter({ hasText: "cannot be estimated" })).toContainText("Bowl temperature × Detergent");
  await saved(page);
  expect((await stored(page, id)).study.models.find((m) => m.response === "grease")?.terms).toContainEqual(["feed", "squeeze"]);
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
  await page.getByRole("button", { name: "Reduce" }).click();
  await page.getByRole("tooltip").getByRole("button", { name: "Reduce" }).click();
  const steps = page.getByLabel("Steps to this model").getByRole("button");
  await expect(steps.first()).toContainText("at first");
  const after = (await page.getByTestId("summary").textContent()) ?? "";
  await steps.nth(1).click();
  await expect(page.getByTestId("summary")).not.toHaveText(after);
  await steps.first().click();
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
  await expect(best).toContainText("the present model", { timeout: 30_000 });
  await page.getByLabel("Criterion").selectOption("r2Predicted");
  await expect(page.getByRole("tabpanel")).toContainText("predicted R²");
  await page.getByLabel("Criterion").selectOption("aicc");
  await page.getByRole("button", { name: "keep all as good as the best" }).click();
  const probe = page.locator("aside").first();
  const before = (await probe.textContent()) ?? "";
  await page.getByLabel("Predict with").selectOption("akaike");
  await expect(probe).not.toHaveText(before);
  await saved(page);
  const kept = (await stored(page, id)).study.models.find((m) => m.response === "grease") as unknown as { average: string; rivals: unknown[] };
  expect(kept.average).toBe("akaike");
  expect(kept.rivals.length).toBeGreaterThan(1);
  await best.getByRole("button", { name: "use" }).first().click();
  await expect(page.getByLabel("Steps to this model")).toHaveCount(0);
  await saved(page);
  await readsWell(page);
});

test("the spread of repeats becomes a response with a model of its own", async ({ page }) => {
  const id = await openExample(page, "nickel-screening");
  await visit(page, id, "model");
  await page.getByRole("button", { name: "Model its spread" }).click();
  await expect(page.getByRole("main").getByRole("button", { name: /^Spread of/ })).toHaveAttribute("aria-pressed", "true");
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
  const grease = (await stored(page, id)).study.models.find((m) => m.response === "grease") as unknown as { transform: string };
  expect(grease.transform).toBe("log");
  await expect(page.locator("aside").first()).toContainText("%");
  await readsWell(page);
});

test("corners move the probe by keyboard; the surface turns; terms are copied between responses", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "model");
  await page.getByRole("tab", { name: "Corners" }).click();
  const corner = page.getByRole("button", { name: /^Move the probe to/ }).first();
  await corner.focus();
  const probe = page.locator("aside").first();
  const before = (await probe.textContent()) ?? "";
  await page.keyboard.press("Enter");
  await expect(probe).not.toHaveText(before);
  await page.getByRole("tab", { name: "Map" }).click();
  await page.getByLabel("Drawn as").selectOption("surface");
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
