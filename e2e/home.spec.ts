import { axe, expect, importStudy, stored, test, visit } from "./help";

test("home: examples open as copies, studies duplicate, delete and come back, back up and open again", async ({
  page,
}) => {
  await page.goto("/");
  await page.locator('[data-ready="yes"]').waitFor();
  expect(await axe(page)).toEqual([]);
  await page.getByRole("button", { name: "Open a copy" }).first().click();
  await page.waitForURL(/model$/);
  await page.goto("/");
  const title = `Unique ${Date.now()}`;
  await importStudy(page, { title });
  await page.reload();
  await page.locator('[data-ready="yes"]').waitFor();
  const row = page.locator("article", { hasText: title });
  await row.getByRole("button", { name: "Duplicate" }).click();
  await expect(page.getByRole("link", { name: `${title} (copy)` })).toBeVisible();
  await page
    .locator("article", { hasText: `${title} (copy)` })
    .getByRole("button", { name: "Delete" })
    .click();
  await page.getByRole("dialog").getByRole("button", { name: "Delete" }).click();
  await expect(page.getByRole("link", { name: `${title} (copy)` })).toBeHidden();
  await page.getByRole("button", { name: "Bring it back" }).click();
  await expect(page.getByRole("link", { name: `${title} (copy)` })).toBeVisible();
  const backup = await (await page.request.get("/api/studies/backup")).body();
  expect(JSON.parse(backup.toString()).studies.map((s: { title: string }) => s.title)).toContain(title);
  await page.locator('[data-file="study"]').setInputFiles({
    name: "one.trialmoor.json",
    mimeType: "application/json",
    buffer: Buffer.from(JSON.stringify({ format: "trialmoor-study", version: 1, title: `${title} opened` })),
  });
  await page.waitForURL(/question$/);
});

test("the shell: commands, glossary, stations by keys, renaming", async ({ page }) => {
  const id = await importStudy(page, { title: "Old name" });
  await visit(page, id, "question");
  await page.getByRole("button", { name: "Old name" }).click();
  await page.getByLabel("Study name").fill("New name");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "New name" })).toBeVisible();
  await page.getByRole("heading", { name: "Question" }).click();
  await page.keyboard.press("g");
  await page.keyboard.press("t");
  await page.waitForURL(/trials$/);
  await page.keyboard.press("Control+k");
  await page.getByLabel("Find a command").fill("glos");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toContainText("alias chain");
  expect((await stored(page, id)).study.title).toBe("New name");
});

test("HTTP: health, OpenAPI, problem documents, stale revisions", async ({ request }) => {
  expect(await (await request.get("/api/health")).json()).toEqual({ status: "ok" });
  const api = (await (await request.get("/api/openapi.json")).json()) as {
    openapi: string;
    paths: Record<string, unknown>;
  };
  expect(api.openapi).toBe("3.1.0");
  expect(Object.keys(api.paths)).toContain("/api/studies/{id}/fit");
  const { id, revision } = (await (
    await request.post("/api/studies", { data: { example: "wool-scouring" } })
  ).json()) as {
    id: string;
    revision: number;
  };
  const missing = await request.post(`/api/studies/${id}/fit`, { data: { response: "nothing" } });
  expect(missing.status()).toBe(422);
  expect(missing.headers()["content-type"]).toContain("application/problem+json");
  expect(await missing.json()).toMatchObject({
    code: "unknown-id",
    path: ["response"],
    detail: expect.stringContaining("the responses are grease"),
  });
  const first = await request.post(`/api/studies/${id}/results`, {
    data: { revision, results: [{ trial: "t1", response: "grease", value: 0.5 }] },
  });
  expect(first.status()).toBe(200);
  const stale = await request.post(`/api/studies/${id}/results`, {
    data: { revision, results: [{ trial: "t1", response: "grease", value: 0.7 }] },
  });
  expect(stale.status()).toBe(409);
  const problem = (await stale.json()) as {
    revision: number;
    study: { trials: { id: string; results: Record<string, number> }[] };
  };
  expect(problem.revision).toBe(revision + 1);
  expect(problem.study.trials.find((t) => t.id === "t1")?.results.grease).toBe(0.5);
  const job = (await (
    await request.post(`/api/studies/${id}/setpoint`, { data: { background: true, draws: 200 } })
  ).json()) as { id: string };
  await expect
    .poll(async () => ((await (await request.get(`/api/jobs/${job.id}`)).json()) as { state: string }).state, {
      timeout: 30_000,
    })
    .toBe("done");
  const fit = (await (await request.post(`/api/studies/${id}/fit`, { data: { response: "grease" } })).json()) as {
    summary: { r2: number };
  };
  expect(fit.summary.r2).toBeGreaterThan(0.9);
});
