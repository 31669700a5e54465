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

const paste = async (page: import("@playwright/test").Page, text: string): Promise<void> => {
  await page.getByTestId("ledger").evaluate((grid, block) => {
    const data = new DataTransfer();
    data.setData("text/plain", block);
    grid.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true }));
  }, text);
};

test("a response is said to be a share, with what is expected of it; limits and changes are typed as percentages", async ({
  page,
}) => {
  const id = await importStudy(page, {
    factors: [{ id: "heat", name: "Heat", unit: "°C", kind: "continuous", low: 150, high: 170, step: 1 }],
    responses: [{ id: "cracked", name: "Cracked", goal: { aim: "lower", low: 0.01, high: 0.06 } }],
  });
  await visit(page, id, "question");
  await page.getByRole("button", { name: "Menu of Cracked" }).click();
  await page.getByRole("menuitem", { name: "How it is measured, curve, bounds" }).click();
  await choose(page, "Cracked: measured as", "share");
  const type = async (label: string, text: string): Promise<void> => {
    await page.getByLabel(label, { exact: true }).fill(text);
    await page.getByLabel(label, { exact: true }).press("Enter");
  };
  await type("Cracked pieces of a trial", "200");
  await type("Cracked share expected in the middle", "7 %");
  await type("Cracked smallest change", "5 %");
  await type("Cracked limits", "8 % to 2 %");
  await saved(page);
  const { study } = await stored(page, id);
  expect(study.responses[0]).toMatchObject({
    measured: "share",
    of: 200,
    base: 0.07,
    smallest: 0.05,
    goal: { aim: "lower", low: 0.02, high: 0.08 },
  });
  // √(0.07 · 0.93/200) = 0.018.
  await expect(page.getByRole("button", { name: /noise of Cracked, from counting/ })).toHaveText("1.8 %");
  // Numbers that no share can be are per cent.
  await type("Cracked limits", "9 to 2");
  await expect(page.getByLabel("Cracked limits", { exact: true })).toHaveValue("9 % to 2 %");
  await saved(page);
  expect((await stored(page, id)).study.responses[0]).toMatchObject({ goal: { aim: "lower", low: 0.02, high: 0.09 } });
  await type("Cracked limits", "120 to 2");
  await expect(page.getByRole("alert").first()).toContainText("between 0 and 1, as 0.02 for 2 %");
  await page.getByLabel("Cracked limits", { exact: true }).press("Escape");
  await type("Cracked pieces of a trial", "many");
  await expect(page.getByRole("alert").first()).toContainText("is no number of pieces");
  await expect(page.getByLabel("Cracked pieces of a trial", { exact: true })).toHaveValue("many");
  expect(await axe(page)).toEqual([]);
});

test("plans for a count are judged by what would be counted: more exposure stands beside more trials", async ({
  page,
}) => {
  const id = await importStudy(page, {
    factors: ["Heat", "Force", "Dwell"].map((name) => ({
      id: name.toLowerCase(),
      name,
      kind: "continuous",
      low: -1,
      high: 1,
    })),
    responses: [
      { id: "pits", name: "Pits", unit: "dm²", measured: "count", of: 2.5, base: 2, excess: 1.5, smallest: 1 },
    ],
  });
  await visit(page, id, "plan");
  await page.locator("[data-plan]").first().waitFor();
  await page.locator('[data-searching="no"]').waitFor({ timeout: WORKED_OUT });
  await expect(page.getByText("smallest change seen, per dm²").first()).toBeVisible();
  await expect(page.getByText("× 4 exposure")).toBeVisible();
  await page.getByRole("button", { name: /Power/ }).click();
  const table = page.getByRole("region", { name: "More pieces or more trials" });
  await expect(table.getByRole("row")).toHaveCount(5);
  // Every further copy and every further piece sees less.
  const cells = await table
    .locator("tbody tr")
    .evaluateAll((rows) => rows.map((r) => [...r.querySelectorAll("td")].slice(1).map((c) => Number(c.textContent))));
  for (const row of cells) expect(row[1]).toBeLessThan(row[0]);
  for (let i = 1; i < cells.length; i++) expect(cells[i][0]).toBeLessThanOrEqual(cells[i - 1][0]);
  expect(await axe(page)).toEqual([]);
});

test("events are typed, pasted and tallied; what is no count is refused with the way out and stays", async ({
  page,
}) => {
  const id = await importStudy(page, {
    factors: [{ id: "heat", name: "Heat", kind: "continuous", low: 150, high: 170 }],
    responses: [
      { id: "cracked", name: "Cracked", measured: "share", of: 50 },
      { id: "pits", name: "Pits", unit: "dm²", measured: "count" },
    ],
    waves: [{ id: "w1" }],
    trials: [150, 170, 160, 150].map((heat, i) => ({ id: `t${i + 1}`, wave: "w1", settings: { heat } })),
  });
  await visit(page, id, "trials");
  await page.getByTestId("ledger").focus();
  for (const text of ["3 of 48", "6 %"]) {
    await page.keyboard.type(text);
    await page.keyboard.press("Enter");
  }
  await page.keyboard.type("51");
  await page.keyboard.press("Enter");
  await expect(page.getByText(/Trial 3, Cracked: 51 of 50 is more than there were/)).toBeVisible();
  await page.keyboard.press("Escape");
  await paste(page, "4/50\t2/1.5\n2\t7");
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("4/50");
  await expect(dialog).toContainText("Line 2, Pits: 7 on how much? Type 7/2.5");
  await dialog.getByRole("button", { name: /Take/ }).click();
  await saved(page);
  const results = async (): Promise<unknown[]> => (await stored(page, id)).study.trials.map((t) => t.results);
  expect(await results()).toEqual([
    { cracked: { events: 3, of: 48 } },
    { cracked: { events: 3, of: 50 } },
    { cracked: { events: 4, of: 50 }, pits: { events: 2, of: 1.5 } },
    { cracked: { events: 2, of: 50 } },
  ]);
  await page.goto(`/studies/${id}/bench?trial=4`);
  await page.locator('[data-ready="yes"]').waitFor();
  await page.getByRole("button", { name: "Cracked +1", exact: true }).click();
  await page.getByRole("button", { name: "Not +1: Cracked" }).click();
  await expect(page.getByLabel("Cracked", { exact: true })).toHaveValue("3/52");
  await page.getByRole("button", { name: "+1 Pits" }).click();
  await expect(page.getByRole("alert").filter({ hasText: "on how much is it counted" })).toBeVisible();
  await page.getByLabel("Pits", { exact: true }).fill("4/0");
  await page.getByLabel("Pits", { exact: true }).press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "must be above 0" })).toBeVisible();
  await page.getByLabel("Pits", { exact: true }).fill("4/2.5");
  await page.getByLabel("Pits", { exact: true }).press("Enter");
  await expect
    .poll(async () => (await results())[3])
    .toEqual({ cracked: { events: 3, of: 52 }, pits: { events: 4, of: 2.5 } });
  expect(await axe(page)).toEqual([]);
});

test("a column of units pasted into a response of repeats is asked about, and made units in one press", async ({
  page,
}) => {
  const id = await importStudy(page, {
    factors: [{ id: "heat", name: "Heat", kind: "continuous", low: 150, high: 170 }],
    responses: [{ id: "thick", name: "Thickness", unit: "mm" }],
    waves: [{ id: "w1" }],
    trials: [150, 170].map((heat, i) => ({ id: `t${i + 1}`, wave: "w1", settings: { heat } })),
  });
  await visit(page, id, "trials");
  await page.getByTestId("ledger").focus();
  const units = Array.from({ length: 80 }, (_, i) => (3.3 + 0.001 * i).toFixed(3));
  await paste(page, units.join("\n"));
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("as repeats of one measurement");
  await dialog.getByRole("button", { name: "They are units" }).click();
  await expect(dialog).toContainText("as units made");
  await dialog.getByRole("button", { name: /Take/ }).click();
  await saved(page);
  const { study } = await stored(page, id);
  expect(study.responses[0]).toMatchObject({ several: "units" });
  expect(study.trials[0].results).toEqual({ thick: units.map(Number) });
});

test("the button press from model to confirmation: link and points, deviance, scatter, a next lot, units", async ({
  page,
}) => {
  const id = await openExample(page, "horn-buttons");
  await visit(page, id, "model");
  const ladder = page.getByTestId("ladder");
  await expect(
    ladder.getByRole("option", { name: /Horn moisture: .* logit scale, .* pts at the probe, p under 0.001/ }),
  ).toBeVisible();
  const summary = page.getByTestId("summary");
  await expect(summary).toContainText("D²");
  // 2.434: Newton steps on the file's trials and Fletcher's (2012) formula, in numpy.
  await expect(summary).toContainText(/scatter × 2\.43/);
  await expect(page.getByText(/Trials scatter 2\.4 times as much as counting gives/)).toBeVisible({
    timeout: WORKED_OUT,
  });
  // By keys: the strongest term out and in again, the rest moving.
  const before = await summary.innerText();
  await ladder.focus();
  await page.keyboard.press("Home");
  await page.keyboard.press("Space");
  await expect(summary).not.toHaveText(before);
  await page.keyboard.press("Control+z");
  await expect.poll(() => summary.innerText()).toBe(before);
  await page.getByRole("tab", { name: "Table" }).click();
  await expect(page.getByRole("heading", { name: "Table of deviance" })).toBeVisible();
  const fit = await (await page.request.post(`/api/studies/${id}/fit`, { data: { response: "cracked" } })).json();
  expect(fit).toMatchObject({ law: "binomial", firth: null, lackOfFit: { pureErrorDf: 2 } });
  expect(fit.summary.d2).toBe(fit.summary.r2);
  expect(fit.rho).toBeGreaterThan(0);
  expect(fit.trials[0]).toMatchObject({ events: 12, of: 200, observed: 0.06 });
  await page.getByRole("tab", { name: "Equation" }).click();
  await expect(page.getByText(/ln\(p\/\(1 − p\)\) of the share p/)).toBeVisible();
  await page.getByRole("tab", { name: "Checks" }).click();
  await expect(page.getByText("Do trials scatter by more than counting gives?")).toBeVisible();
  await page.getByRole("tab", { name: "Half-normal" }).click();
  await expect(page.getByRole("group", { name: /Half-normal plot of 15 contrasts/ })).toBeVisible();
  await page.getByRole("tab", { name: "Residuals" }).click();
  for (const kind of ["Pearson", "deviance", "quantile"])
    await expect(page.getByRole("columnheader", { name: kind, exact: true })).toBeVisible();
  await page.getByRole("tab", { name: "Pairs" }).click();
  await readsWell(page);
  expect(await axe(page)).toEqual([]);

  await visit(page, id, "setpoint");
  await page.getByTestId("candidates").waitFor({ timeout: WORKED_OUT });
  const confirmed = page.getByTestId("confirmation");
  await expect(confirmed).toContainText("It agrees");
  await expect(confirmed).toContainText("(14/600)");
  await expect(page.getByRole("region", { name: "Units of Thickness" })).toContainText("36 units of 3 trials");
  expect(await axe(page)).toEqual([]);
  // A lot five times as large keeps its limit more surely where the expected share lies below it.
  const row = page.getByRole("row").filter({ has: page.getByLabel("Cracked: pieces of the next lot") });
  const chance = async (): Promise<number> => Number.parseFloat((await row.locator("td").last().innerText()) || "NaN");
  const small = await chance();
  await page.getByLabel("Cracked: pieces of the next lot").fill("1000");
  await page.getByLabel("Cracked: pieces of the next lot").press("Enter");
  await expect.poll(chance).not.toBe(small);
  expect(await chance()).toBeGreaterThan(small);
  await saved(page);
  expect((await stored(page, id)).study.responses[0]).toMatchObject({ lot: 1000 });
  await page.getByLabel("Cracked: pieces of the next lot").fill("none");
  await page.getByLabel("Cracked: pieces of the next lot").press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "“none” is no size of a lot" })).toBeVisible();
  await readsWell(page);

  await visit(page, id, "trials");
  await expect(page.getByTestId("ledger")).toContainText("12/200");
  await visit(page, id, "report");
  await expect(page.getByText(/trials scatter 2\.4\d? times as much as counting gives/).first()).toBeVisible();
  await readsWell(page);
});

test("what separates is held by a penalty, and it is said", async ({ page }) => {
  const corners = [-1, 1].flatMap((force) => [-1, 1].map((heat) => ({ heat, force })));
  const id = await importStudy(page, {
    factors: ["Heat", "Force"].map((name) => ({ id: name.toLowerCase(), name, kind: "continuous", low: -1, high: 1 })),
    responses: [{ id: "cracked", name: "Cracked", measured: "share", of: 50 }],
    waves: [{ id: "w1" }],
    trials: [...corners, ...corners].map((settings, i) => ({
      id: `t${i + 1}`,
      wave: "w1",
      state: "done",
      settings,
      results: { cracked: settings.heat < 0 ? 0 : 18 + i },
    })),
  });
  await visit(page, id, "model");
  await expect(page.getByText(/Hardly anything was counted: 0 events of Cracked with Heat low/)).toBeVisible({
    timeout: WORKED_OUT,
  });
  await expect(page.getByTestId("summary")).toContainText("penalised");
  await expect(page.getByTestId("ladder").getByRole("option", { name: /^Heat: .*p under 0.001/ })).toBeVisible();
  await readsWell(page);
});
