import {
  axe,
  candidatesFound,
  choose,
  expect,
  importStudy,
  readsWell,
  saved,
  stored,
  test,
  visit,
  WORKED_OUT,
} from "./help";

/** The whole trail on the wool line: typed from a blank study, no seed data, to a chosen setpoint. */
test("from a blank study to a setpoint", async ({ page }) => {
  await page.goto("/");
  await page.getByLabel("Name of the new study").fill("Scouring, my own");
  await page.getByRole("button", { name: "Start blank" }).click();
  await page.waitForURL(/question$/);

  // Question: responses, then factors, by keyboard alone.
  const responses: [string, string, string, string, string, string][] = [
    ["Residual grease", "%", "within", "0.35 to 0.6 aim 0.45", "0.03", "0.08"],
    ["Whiteness", "index", "raise", "58 to 66", "0.4", "1"],
    ["Entanglement", "index", "lower", "24 to 14", "0.5", "1.2"],
  ];
  for (const [i, [name, unit, aim, limits, noise, smallest]] of responses.entries()) {
    await page.getByLabel("New response name").fill(name);
    await page.keyboard.press("Enter");
    await expect(page.getByLabel(`Response ${i + 1} name`)).toHaveValue(name);
    await page.getByLabel(`${name} unit`).fill(unit);
    await page.keyboard.press("Enter");
    await choose(page, `${name} aim`, aim);
    await page.getByLabel(`${name} limits`).fill(limits);
    await page.keyboard.press("Enter");
    await page.getByLabel(`${name} noise`).fill(noise);
    await page.keyboard.press("Tab");
    await page.getByLabel(`${name} smallest change`).fill(smallest);
    await page.keyboard.press("Enter");
  }
  const factors: [string, string, string, string][] = [
    ["Bowl temperature", "°C", "52 to 68", "1"],
    ["Detergent", "g/kg", "4 to 10", "0.5"],
    ["Soda ash", "g/L", "0 to 6", "0.5"],
    ["Feed", "kg/h", "450 to 750", "10"],
    ["Squeeze", "kN", "5 to 11", "0.5"],
    ["Wool lot", "", "hill, lowland", ""],
  ];
  for (const [i, [name, unit, range, step]] of factors.entries()) {
    await page.getByLabel("New factor name").fill(name);
    await page.keyboard.press("Tab");
    await page.getByLabel("New factor unit").fill(unit);
    await page.keyboard.press("Tab");
    await page.getByLabel("New factor range or levels").fill(range);
    await page.keyboard.press("Enter");
    await expect(page.getByLabel(`Factor ${i + 1} name`)).toHaveValue(name);
    if (step) {
      await page.getByLabel(`${name} step`).fill(step);
      await page.keyboard.press("Enter");
    }
  }
  await saved(page);
  await expect(page.getByRole("link", { name: /Question/ })).toContainText("6 factors · 3 responses");
  expect(await axe(page)).toEqual([]);
  await readsWell(page);

  // Plan: 16 + 3 is on offer, leaves chains, and is adopted all the same.
  await page.getByRole("button", { name: "Weigh plans" }).click();
  await page.waitForURL(/plan$/);
  await expect(page.locator('[data-plan="fraction-16-1-3"]')).toBeVisible();
  await expect(page.locator("aside")).toContainText("22 trials are the least");
  expect(await axe(page)).toEqual([]);
  await expect(page.locator("[data-searching]")).toHaveAttribute("data-searching", "no", { timeout: WORKED_OUT });
  if ((await page.locator('[data-adopt="fraction-16-1-3"]').count()) === 0)
    await page.locator('[data-plan="fraction-16-1-3"]').click();
  await page.locator('[data-adopt="fraction-16-1-3"]').click();
  await page.waitForURL(/trials$/);
  await saved(page);

  // Trials: the rig runs them with visible progress.
  await expect(page.getByRole("link", { name: /Trials/ })).toContainText("0 of 19 run");
  await page.getByRole("button", { name: "Run the rest on the rig" }).click();
  await expect(page.getByRole("status").filter({ hasText: "of 19" })).toBeVisible();
  await expect(page.getByRole("link", { name: /Trials/ })).toContainText("19 of 19 run", { timeout: WORKED_OUT });
  await saved(page);
  expect(await axe(page)).toEqual([]);

  // Model: each response is reduced.
  await page.getByRole("button", { name: "Open the model" }).click();
  await page.waitForURL(/model$/);
  for (const [name] of responses) {
    await page.getByRole("main").getByRole("button", { name, exact: true }).click();
    await page.getByRole("button", { name: "Reduce" }).click();
    await choose(page, "reduce way", "both");
    await choose(page, "reduce by", "aicc");
    await page.getByRole("tooltip").getByRole("button", { name: "Reduce", exact: true }).click();
    await expect(page.getByLabel("Steps to this model")).toBeVisible();
  }
  await saved(page);
  await page.getByRole("main").getByRole("button", { name: "Residual grease" }).click();
  await expect(page.getByRole("option", { name: /^Bowl temperature × Detergent.*in the model/ })).toBeVisible();
  await expect(page.locator("aside").last()).toContainText("act together");
  expect(await axe(page)).toEqual([]);
  await readsWell(page);

  // Setpoint: searched on arrival, chosen, and in the report.
  await page.getByRole("link", { name: /Setpoint/ }).click();
  await page.waitForURL(/setpoint$/);
  await candidatesFound(page);
  expect(await axe(page)).toEqual([]);
  await page.getByRole("button", { name: "Choose" }).first().click();
  await saved(page);
  await expect(page.getByRole("link", { name: /Setpoint/ })).toContainText("not confirmed");
  await page.getByRole("link", { name: /Report/ }).click();
  await expect(page.getByTestId("report")).toContainText("Not confirmed by trials of its own");
  expect(await axe(page)).toEqual([]);
  await readsWell(page);

  // Nothing is lost by a reload.
  await page.reload();
  await expect(page.getByTestId("report")).toContainText("Scouring, my own");
  await expect(page.getByTestId("report")).toContainText("E=ABC,F=BCD");
});

test("one of five changes refused by the server: the others are kept, the refused one stands beside what is, and can be tried again", async ({
  page,
  allowed,
}) => {
  allowed.statuses.push(422);
  const id = await importStudy(page, { responses: [{ id: "y", name: "Yield" }] });
  let refusing = true;
  await page.route(`**/api/studies/${id}`, async (route) => {
    const body = route.request().postData() ?? "";
    if (!refusing || !body.includes("Bad name")) return route.continue();
    await route.fulfill({
      status: 422,
      contentType: "application/problem+json",
      body: JSON.stringify({ status: 422, code: "taken", detail: "That name is taken on the line.", path: [] }),
    });
  });
  await visit(page, id, "question");
  const name = page.getByLabel("New response name");
  for (const text of ["First", "Second", "Bad name", "Fourth", "Fifth"]) {
    await name.fill(text);
    await name.press("Enter");
    await expect(name).toHaveValue("");
  }
  const refusals = page.getByRole("alert", { name: "Refused changes" });
  await expect(refusals).toContainText("One change was refused; all others are kept.");
  await expect(refusals).toContainText("That name is taken on the line.");
  await expect(refusals).toContainText("stands nothing, typed");
  const names = async (): Promise<string[]> => (await stored(page, id)).study.responses.map((r) => r.name);
  await expect.poll(names).toEqual(["Yield", "First", "Second", "Fourth", "Fifth"]);
  await expect(page.getByLabel("Response 4 name")).toHaveValue("Fourth");
  // It outlives a reload.
  await page.reload();
  await expect(refusals).toContainText("Bad name");
  expect(await axe(page)).toEqual([]);
  refusing = false;
  await refusals.getByRole("button", { name: "Try again" }).click();
  await expect(refusals).toHaveCount(0);
  await saved(page);
  expect(await names()).toEqual(["Yield", "First", "Second", "Fourth", "Fifth", "Bad name"]);
});
