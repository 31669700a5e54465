import { expect, importStudy, openExample, readsWell, saved, stored, test, visit } from "./help";

const small = {
  factors: [
    { id: "heat", name: "Heat", kind: "continuous", low: 10, high: 20, step: 1 },
    { id: "dose", name: "Dose", kind: "continuous", low: 1, high: 2 },
  ],
  responses: [{ id: "y", name: "Yield" }],
};

test("low above high, a duplicate name, a step beyond the range, text for a number: one sentence each, nothing typed is lost", async ({
  page,
}) => {
  const id = await importStudy(page, small);
  await visit(page, id, "question");
  const alert = page.getByLabel("Factors", { exact: true }).getByRole("alert");
  const range = page.getByLabel("Heat range or levels");
  await range.fill("30 to 20");
  await expect(alert).toHaveText("Heat: Low (30) must be below high (20); type it like 20 to 30.");
  await page.keyboard.press("Enter");
  await page.reload();
  await expect(page.getByLabel("Heat range or levels")).toHaveValue("30 to 20");
  await page.getByLabel("Heat range or levels").focus();
  await page.keyboard.press("Escape");
  await page.getByLabel("Factor 2 name").fill("heat");
  await page.keyboard.press("Enter");
  await expect(alert).toContainText("The name “heat” is used twice");
  await expect(page.getByLabel("Factor 2 name")).toHaveValue("heat");
  await page.keyboard.press("Escape");
  await page.getByLabel("Heat step").fill("40");
  await page.keyboard.press("Enter");
  await expect(alert).toContainText("the step (40) is larger than the range from 10 to 20");
  await page.keyboard.press("Escape");
  await page.getByLabel("Heat step").fill("fine");
  await page.keyboard.press("Enter");
  await expect(alert).toContainText("the step “fine” must be a number above 0");
  expect((await stored(page, id)).study.factors).toMatchObject([{ low: 10, high: 20 }, { name: "Dose" }]);
});

test("text in a result cell keeps the text and says why", async ({ page }) => {
  const id = await importStudy(page, {
    ...small,
    waves: [{ id: "w" }],
    trials: [{ id: "t", wave: "w", settings: { heat: 10, dose: 1 } }],
  });
  await visit(page, id, "trials");
  await page.getByTestId("ledger").focus();
  await page.keyboard.type("about 5");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert").first()).toContainText("Trial 1, Yield: “about 5” is not a number");
  await expect(page.getByLabel("Trial 1, Yield")).toHaveValue("about 5");
});

test("a constant response, a single result, no result: the model says what is missing", async ({ page }) => {
  const trials = [10, 20, 10, 20].map((heat, i) => ({
    id: `t${i}`,
    wave: "w",
    state: "done",
    settings: { heat, dose: i < 2 ? 1 : 2 },
    results: { y: 5 },
  }));
  for (const [given, sentence] of [
    [trials, "Yield is 5 in every trial; there is nothing to explain."],
    [trials.slice(0, 1), "Yield has one result; at least two are needed"],
    [trials.map((t) => ({ ...t, results: {} })), "Yield has no results that count yet"],
  ] as const) {
    const id = await importStudy(page, { ...small, waves: [{ id: "w" }], trials: given });
    await visit(page, id, "model");
    await expect(page.getByRole("main")).toContainText(sentence);
    await readsWell(page);
  }
});

test("more terms than trials: no NaN, the lack of error df is said", async ({ page }) => {
  const trials = [10, 20, 10].map((heat, i) => ({
    id: `t${i}`,
    wave: "w",
    state: "done",
    settings: { heat, dose: i < 2 ? 1 : 2 },
    results: { y: 5 + i * i },
  }));
  const id = await importStudy(page, {
    ...small,
    waves: [{ id: "w" }],
    trials,
    models: [{ response: "y", terms: [["heat"], ["dose"], ["heat", "dose"]] }],
  });
  await visit(page, id, "model");
  await expect(page.locator("aside").last()).toContainText("nothing is left to judge noise by");
  for (const view of ["Pairs", "Half-normal", "Checks", "Table", "Equation"]) {
    await page.getByRole("tab", { name: view }).click();
    await readsWell(page);
  }
});

test("files that are no study: newer, unknown key, rubbish, too large", async ({ page, allowed }) => {
  allowed.statuses.push(422);
  await page.goto("/");
  const give = (name: string, body: string | Buffer): Promise<void> =>
    page
      .locator('[data-file="study"]')
      .setInputFiles({ name, mimeType: "application/json", buffer: Buffer.from(body) });
  const alert = page.getByRole("main").getByRole("alert");
  await give("new.json", JSON.stringify({ format: "trialmoor-study", version: 9, title: "x" }));
  await expect(alert).toContainText("newer than version 1");
  await give("key.json", JSON.stringify({ format: "trialmoor-study", version: 1, title: "x", colour: 1 }));
  await expect(alert).toContainText("colour is not a key this version knows");
  await give("rubbish.json", "%PDF-1.7");
  await expect(alert).toContainText("rubbish.json is not a study file: its text is not JSON");
  await give("large.json", Buffer.alloc(21_000_000, 32));
  await expect(alert).toContainText("large.json holds 21 MB; a study file holds at most 20.");
});

test("CSV with other columns, and ten megabytes of rubbish", async ({ page }) => {
  const id = await importStudy(page, {
    ...small,
    waves: [{ id: "w" }],
    trials: [{ id: "t", wave: "w", settings: { heat: 10, dose: 1 } }],
  });
  await visit(page, id, "trials");
  await page.getByRole("button", { name: "Paste or import" }).click();
  const alert = page.getByRole("dialog").getByRole("alert");
  await page.getByLabel("Text to import").fill("colour,size\nred,3");
  await expect(alert).toContainText("No column is named for a response");
  await page
    .locator('[data-file="csv"]')
    .setInputFiles({ name: "big.csv", mimeType: "text/csv", buffer: Buffer.alloc(10_000_000, "x,") });
  await expect(alert).toContainText("big.csv holds 10 MB");
  await expect(page.getByLabel("Text to import")).toHaveValue("colour,size\nred,3");
});

test("a deleted study says so and leads home", async ({ page, allowed }) => {
  allowed.statuses.push(404);
  const id = await importStudy(page, small);
  const { revision } = await stored(page, id);
  await page.request.delete(`/api/studies/${id}`, { data: { revision } });
  await page.goto(`/studies/${id}/plan`);
  await expect(page.getByRole("main")).toContainText("does not exist or was deleted");
  await page.getByRole("link", { name: "Go to Home" }).click();
  await expect(page.getByRole("heading", { name: "Studies" })).toBeVisible();
});

test("two tabs: other cells merge, the same cell is shown side by side", async ({ page, context, allowed }) => {
  allowed.statuses.push(409);
  const id = await importStudy(page, small);
  await visit(page, id, "question");
  const other = await context.newPage();
  await visit(other, id, "question");
  await other.getByLabel("Dose unit").fill("g");
  await other.keyboard.press("Enter");
  await other.getByLabel("Heat unit").fill("K");
  await other.keyboard.press("Enter");
  await saved(other);
  await page.getByLabel("Dose step").fill("0.1");
  await page.keyboard.press("Enter");
  await saved(page);
  await expect(page.getByLabel("Dose unit")).toHaveValue("g");
  await other.getByLabel("Heat unit").fill("mK");
  await other.keyboard.press("Enter");
  await expect(other.getByText("all changes saved")).toBeVisible();
  await page.getByLabel("Heat unit").fill("°C");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toContainText("Changed here and in another tab");
  await page.getByRole("button", { name: "keep mine: °C" }).click();
  await saved(page);
  const { study } = await stored(page, id);
  expect(study.factors).toMatchObject([{ unit: "°C" }, { unit: "g", step: 0.1 }]);
});

test("a server that does not answer: the change is kept through a reload and saved later", async ({
  page,
  allowed,
}) => {
  allowed.statuses.push(503);
  const id = await openExample(page);
  await visit(page, id, "question");
  await page.route(`**/api/studies/${id}`, (route) =>
    route.request().method() === "PATCH"
      ? route.fulfill({ status: 503, body: "{}", contentType: "application/json" })
      : route.continue(),
  );
  await page.getByLabel("Feed unit").fill("kg/hour");
  await page.keyboard.press("Enter");
  await expect(page.getByText("not saved: the server does not answer")).toBeVisible();
  page.on("dialog", (d) => void d.accept());
  // Still unanswered behind the reload: it is what the page kept, not what the server holds.
  await page.reload();
  await expect(page.getByLabel("Feed unit")).toHaveValue("kg/hour");
  const feed = async () => (await stored(page, id)).study.factors.find((f) => f.name === "Feed");
  expect(await feed()).not.toHaveProperty("unit", "kg/hour");
  await page.unroute(`**/api/studies/${id}`);
  await saved(page);
  expect(await feed()).toHaveProperty("unit", "kg/hour");
});

test("a change that was saved but whose answer was lost is not made twice", async ({ page, allowed }) => {
  // Sent again, it finds its own value in place of the one it expects.
  allowed.statuses.push(409);
  allowed.failing.push("/api/studies/");
  const id = await openExample(page);
  await visit(page, id, "question");
  const { revision } = await stored(page, id);
  let lost = 0;
  await page.route(`**/api/studies/${id}`, async (route) => {
    if (route.request().method() !== "PATCH" || lost > 0) return route.continue();
    await route.fetch();
    lost++;
    return route.abort("connectionreset");
  });
  await page.getByLabel("Feed unit").fill("kg/hour");
  await page.keyboard.press("Enter");
  await saved(page);
  expect(lost).toBe(1);
  await expect(page.getByLabel("Feed unit")).toHaveValue("kg/hour");
  await expect(page.getByRole("dialog")).toHaveCount(0);
  expect((await stored(page, id)).revision).toBe(revision + 1);
});
