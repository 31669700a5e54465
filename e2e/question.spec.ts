import { axe, choose, expect, importStudy, openExample, saved, stored, test, visit } from "./help";

const two = {
  factors: [
    { id: "heat", name: "Heat", kind: "continuous", low: 10, high: 20, step: 1 },
    { id: "dose", name: "Dose", kind: "continuous", low: 1, high: 2 },
  ],
  responses: [{ id: "y", name: "Yield" }],
};

test("by keyboard alone: a factor's range is changed, moved through, undone and done again", async ({ page }) => {
  const id = await importStudy(page, two);
  await visit(page, id, "question");
  await page.getByLabel("Heat range or levels").focus();
  await page.keyboard.type("12 to 24");
  await page.keyboard.press("Enter");
  await expect(page.getByLabel("Dose range or levels")).toBeFocused();
  await page.keyboard.press("ArrowUp");
  await expect(page.getByLabel("Heat range or levels")).toBeFocused();
  await saved(page);
  expect((await stored(page, id)).study.factors[0]).toMatchObject({ low: 12, high: 24 });
  await page.getByRole("heading", { name: "Question" }).click();
  await page.keyboard.press("Control+z");
  await expect(page.getByLabel("Heat range or levels")).toHaveValue("10 to 20");
  await page.keyboard.press("Control+Shift+z");
  await expect(page.getByLabel("Heat range or levels")).toHaveValue("12 to 24");
  await saved(page);
});

test("rows pasted from a spreadsheet become factors", async ({ page }) => {
  const id = await importStudy(page, { responses: [{ id: "y" }] });
  await visit(page, id, "question");
  await page.getByLabel("New factor name").evaluate((el) => {
    const data = new DataTransfer();
    data.setData("text", "Heat\t°C\t10\t20\t1\nCatalyst\t\told / new\nBroken\t\t5\t5");
    el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect(page.getByLabel("Factor 1 name")).toHaveValue("Heat");
  await expect(page.getByLabel("Catalyst range or levels")).toHaveValue("old, new");
  await expect(page.getByRole("alert").first()).toContainText("Row 3 (Broken): Low (5) must be below high (5)");
  await saved(page);
  expect((await stored(page, id)).study.factors).toHaveLength(2);
});

test("the region is written as sentences and its corners are counted", async ({ page }) => {
  const id = await importStudy(page, two);
  await visit(page, id, "question");
  const box = page.getByLabel("Add to the region");
  await box.fill("Heat + 4 × Dose ≤ 26");
  await page.keyboard.press("Enter");
  await expect(page.locator("#region")).toContainText("1 × Heat + 4 × Dose ≤ 26");
  await expect(page.locator("aside")).toContainText("excludes 1 of the 4 corners");
  await box.fill("Warmth is hot");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert").first()).toContainText("There is no factor called “Warmth”");
  await expect(box).toHaveValue("Warmth is hot");
});

test("a factor added, moved and retired after trials exist loses no result", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "question");
  await page.getByLabel("New factor name").fill("Rinse");
  await page.keyboard.press("Enter");
  await page.getByLabel("New factor range or levels").fill("20 to 40");
  await page.keyboard.press("Enter");
  await page.getByRole("dialog").getByLabel("Rinse").fill("25");
  await page.getByRole("button", { name: "Add Rinse" }).click();
  await expect(page.getByLabel("Factor 7 name")).toHaveValue("Rinse");
  await page.getByLabel("Menu of Squeeze").click();
  await page.getByRole("menuitem", { name: "Retire" }).click();
  // What is no number is said in the form, and stays.
  await page.getByRole("dialog").getByLabel("Squeeze").fill("half");
  await page.getByRole("button", { name: "Retire Squeeze" }).click();
  await expect(page.getByRole("dialog")).toContainText("“half” is not a number; type the value in kN.");
  await page.getByRole("dialog").getByLabel("Squeeze").fill("8");
  await page.getByRole("button", { name: "Retire Squeeze" }).click();
  await expect(page.getByText("held at 8")).toBeVisible();
  await page.getByLabel("Menu of Rinse").click();
  await page.getByRole("menuitem", { name: "Move up" }).click();
  await saved(page);
  const { study } = await stored(page, id);
  expect(study.factors.map((f) => f.name)[5]).toBe("Rinse");
  expect(study.trials.every((t) => t.settings.rinse === 25)).toBe(true);
  expect(study.trials.filter((t) => t.results.grease !== undefined)).toHaveLength(31);
  expect(await axe(page)).toEqual([]);
});

test("what is measured and not set is named here, written down under Trials, and may enter a model", async ({
  page,
}) => {
  const id = await importStudy(page, {
    factors: [
      { id: "heat", name: "Heat", kind: "continuous", low: 0, high: 10 },
      { id: "dose", name: "Dose", kind: "continuous", low: 0, high: 10 },
    ],
    responses: [{ id: "y", name: "Yield" }],
    waves: [{ id: "w" }],
    trials: [0, 10].flatMap((heat, i) =>
      [0, 10].flatMap((dose, j) =>
        [0, 1].map((k) => ({
          id: `t${i}${j}${k}`,
          wave: "w",
          state: "done",
          settings: { heat, dose },
          results: { y: 5 + heat + j + 2 * k },
        })),
      ),
    ),
  });
  await visit(page, id, "question");
  await page.getByRole("button", { name: /measured with each trial/ }).click();
  await page.getByLabel("New covariate name").fill("Hall humidity");
  await page.keyboard.press("Enter");
  await expect(page.getByLabel("Covariate 1 name")).toHaveValue("Hall humidity");
  await page.getByLabel("Hall humidity unit").fill("%");
  await page.keyboard.press("Enter");
  await saved(page);
  await visit(page, id, "trials");
  const grid = page.getByRole("grid");
  await grid.focus();
  await page.keyboard.press("Control+Home");
  await page.keyboard.press("Home");
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  for (const v of [51, 60, 52, 61, 50, 62, 53, 63]) {
    await page.keyboard.type(String(v));
    await page.keyboard.press("Enter");
  }
  await saved(page);
  const { study } = await stored(page, id);
  expect(
    study.trials.map((t) => Object.values((t as unknown as { covariates: Record<string, number> }).covariates)[0]),
  ).toEqual([51, 60, 52, 61, 50, 62, 53, 63]);
  await visit(page, id, "model");
  await page.locator('[data-key^="hall"]').dblclick();
  await expect(page.getByRole("option", { name: /^Hall humidity.*in the model/ })).toBeVisible();
  await saved(page);
});

test("pasted aims: common words are understood, others keep their row and say which are; an aim without limits asks for them", async ({
  page,
}) => {
  const id = await importStudy(page, {});
  await visit(page, id, "question");
  await page.getByLabel("New response name").evaluate((el) => {
    const data = new DataTransfer();
    data.setData("text", "Gloss\t\tmaximise\t60\t80\nFeel\t\tbest\nHaze\t%\tlower");
    el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect(page.getByLabel("Gloss limits")).toHaveValue("60 to 80");
  const alert = page.locator("#responses").getByRole("alert");
  await expect(alert).toContainText(
    "Row 2 (Feel): “best” is not an aim; raise, lower, hit, within and watch are understood",
  );
  await expect(alert).toContainText("Row 3 (Haze): its aim, lower, has no limits yet");
  await expect(page.locator("td", { has: page.getByRole("combobox", { name: "Haze aim" }) })).toContainText("lower");
  await page.getByLabel("Haze limits").fill("9 to 4");
  await page.getByLabel("Haze limits").press("Enter");
  await saved(page);
  expect((await stored(page, id)).study.responses).toMatchObject([
    { name: "Gloss", goal: { aim: "raise", low: 60, high: 80 } },
    { name: "Feel", goal: { aim: "watch" } },
    { name: "Haze", goal: { aim: "lower", low: 4, high: 9 } },
  ]);
});

test("a study begins with a sheet: roles are guessed, one is changed, factors, responses and trials are made of it", async ({
  page,
}) => {
  await page.goto("/");
  await page.locator('[data-ready="yes"]').waitFor();
  await page.getByLabel("Name of the new study").fill("From what was run");
  await page.getByRole("button", { name: "From a sheet…" }).click();
  await page.waitForURL(/question#sheet$/);
  const dialog = page.getByRole("dialog", { name: "Start from a sheet" });
  const box = dialog.getByLabel("Sheet as text");
  await box.fill("\u0000");
  await expect(dialog.getByRole("alert")).toBeVisible();
  await box.fill(
    [
      "No;Heat (°C);Heat coded;Line;Height 1 (mm);Height 2 (mm);Damp;Shift",
      "2;60;1;east;5,1;5,3;41;day",
      "1;40;-1;east;4,0;4,2;42;day",
      "3;60;1;west;5,6;5,5;43;day",
      "4;40;-1;west;4,4;4,6;44;day",
    ].join("\n"),
  );
  const table = dialog.getByRole("table", { name: "What each column is" });
  await expect(table.getByRole("row", { name: /^Heat coded/ })).toContainText("It is Heat in coded units");
  await expect(table.getByRole("row", { name: /^Shift/ })).toContainText("Every row says day");
  await choose(page, "Damp is", "covariate");
  await expect(dialog.getByRole("status")).toContainText(
    "2 factors, 1 response and a wave of 4 trials, 4 with results.",
  );
  // A full factorial of two: both main effects and their interaction, no trial run twice.
  await expect(dialog.getByRole("status")).toContainText(
    "Of 3 main effects and interactions these trials tell 3 apart from all others; 0 degrees of freedom of pure error.",
  );
  const step = dialog.getByRole("spinbutton", { name: "Heat step" });
  await expect(step).toHaveValue("1");
  await step.fill("5");
  await step.press("Tab");
  expect(await axe(page)).toEqual([]);
  await dialog.getByRole("button", { name: "Start with 4 trials" }).click();
  await page.waitForURL(/trials$/);
  await saved(page);
  const id = /studies\/([^/]+)/.exec(page.url())?.[1] ?? "";
  const { study } = await stored(page, id);
  expect(study.factors.map((f) => [f.name, (f as { step?: number }).step])).toEqual([
    ["Heat", 5],
    ["Line", undefined],
  ]);
  expect(study.trials.map((t) => [t.order, t.settings.heat, t.results.height])).toEqual([
    [1, 40, [4, 4.2]],
    [2, 60, [5.1, 5.3]],
    [3, 60, [5.6, 5.5]],
    [4, 40, [4.4, 4.6]],
  ]);
  await page.getByRole("button", { name: /^Undo/ }).click();
  await expect.poll(async () => (await stored(page, id)).study.trials.length).toBe(0);
  expect((await stored(page, id)).study.factors).toHaveLength(0);
});

test("a sheet with several rows a trial asks what they are before it begins a study", async ({ page }) => {
  const made = await page.request.post("/api/studies", { data: { title: "Long" } });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`/studies/${id}/trials`);
  await page.getByRole("button", { name: "Start from a sheet" }).click();
  const dialog = page.getByRole("dialog", { name: "Start from a sheet" });
  const rows = [1, 2, 3, 4].flatMap((t) => [0, 1].map((i) => `${t},${40 + 20 * (t % 2)},${t}.${i}5`));
  await dialog.getByLabel("Sheet as text").fill(["Trial,Heat,Height", ...rows].join("\n"));
  await expect(dialog.getByRole("button", { name: "Start with 8 trials" })).toBeVisible();
  await dialog.getByRole("checkbox", { name: /8 rows have 4 trial numbers/ }).check();
  await dialog.getByRole("button", { name: "Start with 4 trials" }).click();
  await page.waitForURL(/trials$/);
  await saved(page);
  const { trials } = (await stored(page, id)).study;
  expect(trials.map((t) => Object.values(t.results)[0])).toEqual([1, 2, 3, 4].map((t) => [t + 0.05, t + 0.15]));
});

test("what trials cost is typed once in one's own unit, refused where it is no cost, and spent in the report", async ({
  page,
}) => {
  const id = await importStudy(page, {
    factors: ["a", "b"].map((f) => ({ id: f, kind: "continuous", low: 0, high: 1 })),
    responses: [{ id: "y" }],
    waves: [{ id: "w" }],
    trials: [0, 1].map((a) => ({ id: `t${a}`, wave: "w", state: "done", settings: { a, b: 0 }, results: { y: a } })),
  });
  await visit(page, id, "question");
  await page.getByRole("button", { name: /what a trial costs/ }).click();
  for (const [label, text] of [
    ["Unit of costs", "h"],
    ["Cost of a trial", "1.5"],
    ["Cost of a wave", "-8"],
  ]) {
    await page.getByLabel(label).fill(text);
    await page.getByLabel(label).press("Enter");
  }
  await expect(page.getByRole("alert").first()).toContainText("must be a number from 0 on");
  await expect(page.getByLabel("Cost of a wave")).toHaveValue("-8");
  await page.getByLabel("Cost of a wave").fill("8");
  await page.getByLabel("Cost of a wave").press("Enter");
  await saved(page);
  await visit(page, id, "report");
  // Two trials and a wave: 2 × 1.5 + 8.
  await expect(page.getByText("Spent so far: 11 h")).toBeVisible();
});
