import { axe, choose, expect, importStudy, readsWell, saved, stored, test, visit } from "./help";

const small = {
  factors: [
    { id: "bowl", name: "Bowl temperature", unit: "°C", kind: "continuous", low: 52, high: 68 },
    { id: "dose", name: "Dose", unit: "g", kind: "continuous", low: 1, high: 3 },
  ],
  responses: [{ id: "grease", name: "Grease", unit: "%" }],
  waves: [{ id: "w1", name: "First" }],
  trials: [1, 2, 3, 4].map((n) => ({
    id: `t${n}`,
    wave: "w1",
    order: n,
    state: "done",
    settings: { bowl: n > 2 ? 68 : 52, dose: n % 2 ? 1 : 3 },
    results: { grease: n / 10 },
  })),
};

test("change, mark, look back, bring back, undo: under a name, in words, by keys", async ({ page }) => {
  const id = await importStudy(page, small);
  await visit(page, id, "trials");
  await page.getByRole("button", { name: "Your name?" }).click();
  await page.getByLabel("Your name").fill("Mirja Holt");
  await page.getByRole("button", { name: "Keep" }).click();
  await expect(page.getByRole("button", { name: "Mirja Holt" })).toBeVisible();
  const ledger = page.getByTestId("ledger");
  await ledger.focus();
  // The cell with the cursor, typed over; then what was really set of the trial below.
  await ledger.press("ArrowUp");
  await page.keyboard.type("0.55");
  await page.keyboard.press("Enter");
  await saved(page);
  const before = await stored(page, id);
  await page.getByRole("button", { name: "Commands" }).click();
  await page.getByRole("combobox", { name: "Find a command" }).fill("mark this");
  await page.keyboard.press("Enter");
  await page.waitForURL(/history#mark$/);
  await page.getByLabel("Name of this moment").fill("before the second wave");
  await page.keyboard.press("Enter");
  await expect(page.locator('[data-flag="trials"]')).toContainText("before the second wave");
  await visit(page, id, "question");
  await page.getByLabel("Bowl temperature range or levels").fill("50 to 68");
  await page.keyboard.press("Enter");
  await saved(page);
  await page.getByRole("button", { name: "History" }).click();
  const list = page.getByRole("main");
  await expect(list).toContainText("Bowl temperature, low: 52 → 50 °C");
  await expect(list).toContainText("Grease of trial 1: 0.1 → 0.55 %");
  await expect(list.locator("[data-revision]").first()).toContainText("Mirja Holt");
  await expect(list).toContainText("before the second wave");
  expect(await axe(page)).toEqual([]);
  await readsWell(page);
  // At the mark only the range differs; before everything the result as well.
  await list.getByRole("button", { name: "before the second wave", exact: true }).click();
  const beside = page.getByTestId("beside");
  await expect(beside).toContainText("1 place differs");
  await expect(beside.getByRole("row", { name: /Bowl temperature, low/ })).toContainText("52");
  await list.locator('[data-revision="1"]').getByRole("button").first().click();
  await expect(beside).toContainText("2 places differ");
  await expect(beside).toContainText("0.1 → 0.55");
  await beside.getByLabel("what is the same, too").check();
  await expect(beside.getByRole("row", { name: /Dose, high/ })).toContainText("3");
  expect(await axe(page)).toEqual([]);
  await beside.getByRole("button", { name: "Bring this state back" }).click();
  await saved(page);
  expect((await stored(page, id)).study.trials[0].results.grease).toBe(0.1);
  await expect(beside).toContainText("Nothing differs from it.");
  await expect(list.locator("[data-revision]").first()).toContainText("brought back the state after");
  await page.keyboard.press("Control+z");
  await saved(page);
  const { study } = await stored(page, id);
  expect(study.trials).toEqual(before.study.trials);
  expect(study.factors[0].low).toBe(50);
});

test("a cell and a model have their own history; filters meet and are undone; the report prints it when asked", async ({
  page,
}) => {
  const id = await importStudy(page, { ...small, models: [{ response: "grease", terms: [["bowl"], ["dose"]] }] });
  const put = async (path: string[], from: unknown, to: unknown, who: string): Promise<void> => {
    const { revision } = await stored(page, id);
    const made = await page.request.patch(`/api/studies/${id}`, {
      data: { revision, edits: [{ path, from, to }], what: "changed" },
      headers: { "x-trialmoor-who": encodeURIComponent(who) },
    });
    expect(made.status()).toBe(200);
  };
  await put(["trials", "t1", "results", "grease"], 0.1, 0.7, "Łucja");
  await put(["trials", "t2", "results", "grease"], 0.2, 0.8, "Per");
  await put(["models", "grease", "terms"], [["bowl"], ["dose"]], [["bowl"]], "Łucja");
  await visit(page, id, "trials");
  const ledger = page.getByTestId("ledger");
  await ledger.focus();
  await ledger.press("Alt+h");
  await page.waitForURL(/history\?path=/);
  const list = page.getByRole("main");
  await expect(list).toContainText("Grease of trial 1: 0.1 → 0.7 %");
  await expect(list).not.toContainText("trial 2");
  await page.getByRole("button", { name: "Grease of trial 1 ×" }).click();
  await expect(list).toContainText("Grease of trial 2: 0.2 → 0.8 %");
  await choose(page, "Person", "Łucja");
  await choose(page, "Station", "model");
  await expect(list).toContainText("Model of Grease, terms: Dose out");
  await expect(list).not.toContainText("Grease of trial");
  await choose(page, "Station", "setpoint");
  await expect(list).toContainText("Nothing of this kind was changed.");
  await page.getByRole("button", { name: "Show everything" }).click();
  await expect(list).toContainText("Grease of trial 2");
  await visit(page, id, "model");
  await page.getByRole("link", { name: "history of this model" }).click();
  await expect(list).toContainText("Model of Grease, terms: Dose out");
  await expect(list).not.toContainText("Grease of trial");
  await visit(page, id, "report");
  await expect(page.getByTestId("report")).not.toContainText("changed: ");
  await page.getByRole("checkbox", { name: "History" }).check();
  await expect(page.getByTestId("report")).toContainText("changed: Grease of trial 1: 0.1 → 0.7 %");
  await expect(page.getByTestId("report")).toContainText("Łucja");
});
