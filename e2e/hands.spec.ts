import { expect, importStudy, openExample, saved, stored, tabletOf, test, visit } from "./help";

/** Two factors run at their corners, the last four trials waiting; one response that is raised. */
const study = (more: object = {}) => ({
  factors: [
    { id: "heat", name: "Heat", unit: "°C", kind: "continuous", low: 40, high: 60, hardLow: 30, hardHigh: 70 },
    { id: "dose", name: "Dose", unit: "g", kind: "continuous", low: 1, high: 3 },
  ],
  responses: [{ id: "white", name: "Whiteness", goal: { aim: "raise", low: 58, high: 66 }, noise: 0.5 }],
  waves: [{ id: "w", name: "First" }],
  trials: Array.from({ length: 8 }, (_, i) => ({
    id: `t${i + 1}`,
    wave: "w",
    order: i + 1,
    settings: { heat: i % 2 ? 60 : 40, dose: i % 4 < 2 ? 1 : 3 },
    ...(i < 4 ? { state: "done", results: { white: [55.7, 64.8, 60.5, 62][i] } } : {}),
  })),
  ...more,
});

test("the ledger takes what is typed as it opens and behind a reload, says nothing of values it took, asks about odd ones", async ({
  page,
}) => {
  const id = await importStudy(page, study());
  await visit(page, id, "trials");
  const said = page.locator('[data-testid="ledger"] ~ *');
  // The first trial that waits is framed: typing lands there without a click.
  await page.keyboard.type("61.5");
  await page.keyboard.press("Enter");
  await page.keyboard.type("60.25");
  await page.keyboard.press("Tab");
  await saved(page);
  await expect(said.getByText("has changed elsewhere")).toHaveCount(0);
  await page.reload();
  await page.locator('[data-ready="yes"]').waitFor();
  // Until somebody works in the ledger the page's own keys are its own.
  await page.keyboard.press("g");
  await page.keyboard.press("m");
  await page.locator('[data-station="model"]').waitFor();
  await page.keyboard.press("g");
  await page.keyboard.press("t");
  await page.locator('[data-station="trials"]').waitFor();
  await page.keyboard.type("59");
  await page.keyboard.press("Enter");
  await saved(page);
  const results = async () => (await stored(page, id)).study.trials.map((t) => t.results.white);
  expect(await results()).toEqual([55.7, 64.8, 60.5, 62, 61.5, 60.25, 59, undefined]);
  await page.keyboard.type("-5000");
  await page.keyboard.press("Enter");
  await expect(page.getByText("Typed −5000; the others lie between 55.7 and 64.8")).toBeVisible();
  expect((await results())[7]).toBeUndefined();
  // Leaving it is no second answer; entering it once more is.
  await page.getByRole("heading", { name: "Trials", exact: true }).click();
  expect((await results())[7]).toBeUndefined();
  await page.getByLabel("Trial 8, Whiteness").press("Enter");
  await saved(page);
  expect((await results())[7]).toBe(-5000);
});

test("a pasted column with decimal commas keeps its decimals", async ({ page, context }) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  const id = await importStudy(page, study());
  await visit(page, id, "trials");
  await page.evaluate(() => navigator.clipboard.writeText("100,0\n103,7\n99\n98,25"));
  await page.keyboard.press("ArrowUp");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Control+v");
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("button", { name: "Take 4 values" }).click();
  await saved(page);
  const { trials } = (await stored(page, id)).study;
  expect(trials.slice(4).map((t) => t.results.white)).toEqual([100, 103.7, 99, 98.25]);
});

test("an aim without limits outlives a reload, and results offer it some; weights are typed as they are", async ({
  page,
}) => {
  const id = await importStudy(
    page,
    study({
      responses: [
        { id: "white", name: "Whiteness" },
        { id: "cost", name: "Cost", goal: { aim: "lower", low: 1, high: 5 } },
      ],
    }),
  );
  await visit(page, id, "question");
  await page.getByLabel("Whiteness aim").click();
  await page.getByTitle("raise", { exact: true }).click();
  await expect(page.getByRole("alert").filter({ hasText: "type the limits to raise it between" })).toBeVisible();
  await expect(page.getByLabel("Whiteness limits")).toBeFocused();
  await page.reload();
  await page.locator('[data-ready="yes"]').waitFor();
  await expect(page.getByRole("alert").filter({ hasText: "until then it is watched" })).toBeVisible();
  // The middle of 55.7, 60.5, 62 and 64.8 is 61.25; the best is 64.8.
  await page.getByRole("button", { name: "Take 61.3 to 64.8" }).click();
  await saved(page);
  const responses = async () =>
    (await stored(page, id)).study.responses as unknown as { goal: object; importance: number }[];
  expect((await responses())[0].goal).toEqual({ aim: "raise", low: 61.3, high: 64.8 });
  await page.getByLabel("Whiteness: importance").fill("3");
  await page.keyboard.press("Enter");
  await expect(page.getByText("Counted now: Whiteness 75 % and Cost 25 %.")).toBeVisible();
  await saved(page);
  expect((await responses()).map((r) => r.importance)).toEqual([3, 1]);
});

test("pasted rows whose aim is not understood keep their limits; Tab behind a new name goes to its unit", async ({
  page,
}) => {
  const id = await importStudy(page, { factors: study().factors, responses: [], trials: [], waves: [] });
  await visit(page, id, "question");
  const fresh = page.getByLabel("New response name");
  await fresh.focus();
  await page.evaluate(() => {
    const data = new DataTransfer();
    data.setData("text/plain", "Feel\tpt\tbest\t1 to 5");
    document.activeElement?.dispatchEvent(
      new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }),
    );
  });
  await expect(page.getByRole("alert").filter({ hasText: "“best” is not an aim" })).toBeVisible();
  await page.getByLabel("Feel aim").click();
  await page.getByTitle("raise", { exact: true }).click();
  await saved(page);
  expect((await stored(page, id)).study.responses).toMatchObject([
    { name: "Feel", goal: { aim: "raise", low: 1, high: 5 } },
  ]);
  await page.getByLabel("New response name").fill("Cost");
  await page.keyboard.press("Tab");
  await expect(page.getByLabel("Cost unit")).toBeFocused();
  await page.keyboard.type("p/kg");
  await page.keyboard.press("Enter");
  await saved(page);
  expect((await stored(page, id)).study.responses[1]).toMatchObject({ name: "Cost", unit: "p/kg" });
});

test("steps are offered for factors that have none, and taken in one press", async ({ page }) => {
  const id = await importStudy(page, { ...study(), trials: [], waves: [] });
  await visit(page, id, "question");
  await page.getByRole("button", { name: "Take Heat 2 °C and Dose 0.2 g" }).click();
  await saved(page);
  expect((await stored(page, id)).study.factors).toMatchObject([{ step: 2 }, { step: 0.2 }]);
  // The way back outlives a reload.
  await page.reload();
  await page.getByRole("button", { name: "Undo" }).and(page.locator(":enabled")).click();
  await saved(page);
  for (const factor of (await stored(page, id)).study.factors) expect(factor).not.toHaveProperty("step");
});

test("at the bench a setting is typed over, asked about past its limits, and one more reading takes one tap", async ({
  browser,
  baseURL,
  page,
}) => {
  const id = await importStudy(page, study());
  const context = await tabletOf(browser, baseURL);
  const tablet = await context.newPage();
  await tablet.goto(`/studies/${id}/bench`);
  await tablet.locator('[data-ready="yes"]').waitFor();
  const keys = tablet.getByRole("group", { name: "Keypad" });
  const tap = async (text: string): Promise<void> => {
    for (const key of text) await keys.getByRole("button", { name: key, exact: true }).tap();
  };
  await tablet.getByRole("button", { name: "It was set otherwise" }).tap();
  const heat = tablet.getByLabel("Heat, really set");
  await heat.tap();
  await tap("43");
  await expect(heat).toHaveValue("43");
  await tap("5");
  await keys.getByRole("button", { name: "Enter" }).tap();
  await expect(tablet.getByRole("region", { name: "Settings" }).getByRole("alert")).toContainText(
    "Heat 435 °C lies above its hard limit, 70 °C",
  );
  await tablet.getByRole("button", { name: "It was not" }).tap();
  await heat.tap();
  await tap("43");
  await keys.getByRole("button", { name: "Enter" }).tap();
  await tablet.getByRole("button", { name: "Done" }).tap();
  const white = tablet.getByLabel("Whiteness", { exact: true });
  await white.tap();
  await tap("61");
  // The tap that asks for one more takes what stands, and the new field has the cursor.
  await tablet.getByRole("button", { name: "One more reading of Whiteness" }).tap();
  await expect(tablet.getByLabel("Whiteness, reading 2")).toBeFocused();
  await tap("62");
  await keys.getByRole("button", { name: "Enter" }).tap();
  await expect(tablet.getByRole("status").filter({ hasText: "All entries are sent." })).toBeVisible();
  expect((await stored(page, id)).study.trials[4]).toMatchObject({ results: { white: [61, 62] }, asRun: { heat: 43 } });
  await context.close();
});

test("trials of a confirmation stand as what they are; of a wave what is left is printed alone", async ({ page }) => {
  const base = study();
  const id = await importStudy(page, {
    ...base,
    waves: [...base.waves, { id: "c", name: "Confirmation" }],
    trials: [
      ...base.trials,
      { id: "c1", wave: "c", order: 9, kind: "confirm", use: false, settings: { heat: 53.1234, dose: 2 } },
    ],
  });
  await visit(page, id, "trials");
  const line = page.locator('[data-trial="9"]');
  await expect(line).toContainText("confirm");
  await expect(line).toHaveAttribute("data-off", "no");
  const cell = line.getByRole("gridcell").filter({ hasText: "53.1234" });
  expect(await cell.evaluate((e) => e.scrollWidth <= e.clientWidth)).toBe(true);
  await page.goto(`/studies/${id}/paper?wave=w&as=cards`);
  await expect(page.locator(".card")).toHaveCount(8);
  await expect(page.getByText("The codes open the bench on this machine alone")).toBeVisible();
  // Whatever a card holds, its blanks never lie over a setting.
  const room = (): Promise<number> =>
    page.locator(".card").evaluateAll((cards) =>
      Math.min(
        ...cards.map((c) => {
          const [settings, blanks] = ["dl", "ul"].map((part) => c.querySelector(part)?.getBoundingClientRect());
          return (blanks?.top ?? Number.NaN) - (settings?.bottom ?? Number.NaN);
        }),
      ),
    );
  expect(await room()).toBeGreaterThanOrEqual(0);
  await page.getByText("what is left", { exact: true }).click();
  await expect(page.locator(".card")).toHaveCount(4);
  // Four factors, three responses: as much as a small card takes; six and four stand on large ones.
  for (const example of ["horn-buttons", "wool-scouring"]) {
    await page.goto(`/studies/${await openExample(page, example)}/paper?as=cards`);
    await expect(page.locator(".card").first()).toBeVisible();
    expect(await room()).toBeGreaterThanOrEqual(0);
  }
});
