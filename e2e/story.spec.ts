import {
  axe,
  candidatesFound,
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

/** From a question to a confirmed setpoint, every wave run on the rig of the wool line. */
test("screen, part the active chain, settle, confirm", async ({ page }) => {
  const example = (await stored(page, await openExample(page))).study as unknown as Record<string, unknown>;
  const id = await importStudy(page, {
    title: "The whole story",
    factors: example.factors,
    responses: example.responses,
    region: example.region,
  });
  const runAll = async (total: number): Promise<void> => {
    await page.waitForURL(/trials$/);
    await page.getByRole("button", { name: "Run the rest on the rig" }).click();
    await expect(page.getByRole("link", { name: /Trials/ })).toContainText(`${total} of ${total} run`, {
      timeout: WORKED_OUT,
    });
    await saved(page);
  };
  const names = ["Residual grease", "Whiteness", "Entanglement", "Water and heat cost"];
  const reduceAll = async (): Promise<void> => {
    for (const name of names) {
      await page.getByRole("main").getByRole("button", { name, exact: true }).click();
      await page.getByRole("button", { name: "Reduce" }).click();
      await choose(page, "reduce way", "both");
      await choose(page, "reduce by", "aicc");
      await page.getByRole("tooltip").getByRole("button", { name: "Reduce", exact: true }).click();
      await expect(page.getByRole("tooltip")).toHaveCount(0);
    }
    await saved(page);
  };

  // Wave 1: sixteen trials and three centre points.
  await visit(page, id, "plan");
  await expect(page.locator("[data-searching]")).toHaveAttribute("data-searching", "no", { timeout: WORKED_OUT });
  if ((await page.locator('[data-adopt="fraction-16-1-3"]').count()) === 0)
    await page.locator('[data-plan="fraction-16-1-3"]').click();
  await page.locator('[data-adopt="fraction-16-1-3"]').click();
  await runAll(19);
  await page.getByRole("link", { name: /Model/ }).click();
  await page.waitForURL(/model$/);
  await reduceAll();

  // What the next wave would tell: the active chain and the bend are what the study needs now.
  await page.getByRole("link", { name: /Plan/ }).click();
  await page.waitForURL(/plan$/);
  const next = page.getByTestId("next-wave");
  await expect(next).toBeVisible({ timeout: WORKED_OUT });
  await expect(next).toContainText("cannot be told apart");
  await expect(next.locator('[data-follow="axial"]')).toContainText("which factor bends");
  expect(await axe(page)).toEqual([]);
  await readsWell(page);
  await next.locator('[data-follow="missing-fraction"]').getByRole("button", { name: "Adopt" }).click();
  await runAll(35);
  await page.getByRole("link", { name: /Plan/ }).click();
  await page.waitForURL(/plan$/);
  await next.locator('[data-follow="axial"]').getByRole("button", { name: "Adopt" }).click({ timeout: WORKED_OUT });
  await runAll(47);
  const { study } = await stored(page, id);
  expect(study.waves).toHaveLength(3);
  await page.getByRole("link", { name: /Model/ }).click();
  await page.waitForURL(/model$/);
  await reduceAll();

  // Settle, then confirm: three trials at the setpoint, out of the models, judged beside the prediction.
  await page.getByRole("link", { name: /Setpoint/ }).click();
  await page.waitForURL(/setpoint$/);
  await candidatesFound(page);
  await page.getByRole("button", { name: "Choose" }).first().click();
  await saved(page);
  const confirm = page.getByTestId("confirmation");
  await confirm.getByLabel("Confirmation trials").fill("0");
  await expect(confirm).toContainText("Give a whole number from 1 to 50.");
  await confirm.getByLabel("Confirmation trials").fill("4");
  await confirm.getByRole("button", { name: "Plan the confirmation" }).click();
  await runAll(51);
  const after = (await stored(page, id)).study;
  expect(after.trials.slice(-4).map((t) => t.use)).toEqual([false, false, false, false]);
  await page.getByRole("link", { name: /Setpoint/ }).click();
  await page.waitForURL(/setpoint$/);
  await expect(confirm.getByRole("status")).toContainText(/It agrees|It does not agree/);
  await expect(page.getByRole("link", { name: /Setpoint/ })).toContainText(/, confirmed|not as predicted/);
  expect(await axe(page)).toEqual([]);
  await readsWell(page);
  await page.getByRole("link", { name: /Report/ }).click();
  await expect(page.getByTestId("report")).toContainText("Confirmation");
});

test("the trade-off and slices of overall desirability open and follow the probe", async ({ page }) => {
  const id = await openExample(page);
  await visit(page, id, "setpoint");
  await candidatesFound(page);
  await choose(page, "Picture", "trade");
  const ring = page.getByRole("button", { name: /^Take the probe to/ }).last();
  await ring.focus();
  const heading = page.getByRole("main").locator("strong.num").first();
  const before = await heading.textContent();
  await page.keyboard.press("Enter");
  await expect(heading).not.toHaveText(before ?? "");
  await choose(page, "Picture", "slices");
  await expect(page.getByRole("application", { name: /Overall desirability at Wool lot lowland/ })).toBeVisible();
  expect(await axe(page)).toEqual([]);
  await readsWell(page);
});

test("HTTP: a wave that follows is appraised before and after, and adopted with the revision", async ({
  page,
  allowed,
}) => {
  const id = await openExample(page);
  const { revision, study } = await stored(page, id);
  const asked = await page.request.post(`/api/studies/${id}/follow`, {
    data: { kind: "missing-fraction", terms: "main+2fi" },
  });
  const answer = (await asked.json()) as { before: { n: number }; after: { n: number }; trials: unknown[] };
  expect(answer.after.n - answer.before.n).toBe(answer.trials.length);
  const adopted = await page.request.post(`/api/studies/${id}/follow`, {
    data: { kind: "confirm", adopt: true, revision },
  });
  expect(adopted.status()).toBe(200);
  const grown = await stored(page, id);
  expect(grown.study.trials.length).toBe(study.trials.length + 3);
  // Several results of one waiting trial at once: it begins to count with the first.
  const trial = grown.study.trials[grown.study.trials.length - 1].id;
  const results = [
    { trial, response: "grease", value: 0.45 },
    { trial, response: "white", value: 63 },
  ];
  expect(
    (await page.request.post(`/api/studies/${id}/results`, { data: { revision: grown.revision, results } })).status(),
  ).toBe(200);
  expect((await stored(page, id)).study.trials.at(-1)?.state).toBe("done");
  allowed.statuses.push(422);
  const refused = await page.request.post(`/api/studies/${id}/follow`, { data: { kind: "foldover" } });
  expect(((await refused.json()) as { detail: string }).detail).toContain("turn one factor alone");
  const shape = await page.request.post(`/api/studies/${id}/surface`, { data: { response: "grease" } });
  expect(((await shape.json()) as { importance: unknown[] }).importance).toHaveLength(6);
});
