import { readdirSync, readFileSync } from "node:fs";
import { axe, expect, importStudy, stored, test, visit, WORKED_OUT } from "./help";

test("home: examples open as copies, studies duplicate, delete and come back, back up and open again", async ({
  page,
}) => {
  await page.goto("/");
  await page.locator('[data-ready="yes"]').waitFor();
  expect(await axe(page)).toEqual([]);
  // Every study that is shipped is offered under its own title, with a sentence of what it shows.
  for (const file of readdirSync("examples").filter((f) => f.endsWith(".trialmoor.json"))) {
    const { title } = JSON.parse(readFileSync(`examples/${file}`, "utf8")) as { title: string };
    const offered = page.locator("div", { has: page.locator("strong", { hasText: title }) }).last();
    await expect(offered.locator("p")).toHaveText(/\w.*\.$/);
  }
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

test("the tour leads from the question on, goes where it points, outlives a reload, and is left", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: /tour/i }).click();
  await page.waitForURL(/question$/);
  const tour = page.getByTestId("tour");
  await expect(tour).toContainText("The question");
  await expect(tour).toContainText("✓");
  await tour.getByRole("button", { name: "Next" }).click();
  await page.waitForURL(/plan$/);
  await expect(tour).toContainText("Weigh plans");
  await page.reload();
  await expect(tour).toContainText("Weigh plans");
  await page.getByRole("link", { name: /^Model/ }).click();
  await page.waitForURL(/model$/);
  await tour.getByRole("button", { name: "Take me there" }).click();
  await page.waitForURL(/plan$/);
  expect(await axe(page)).toEqual([]);
  await tour.getByRole("button", { name: "leave the tour" }).click();
  await expect(tour).toHaveCount(0);
  await page.reload();
  await page.locator('[data-ready="yes"]').waitFor();
  await expect(tour).toHaveCount(0);
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
      timeout: WORKED_OUT,
    })
    .toBe("done");
  const fit = (await (await request.post(`/api/studies/${id}/fit`, { data: { response: "grease" } })).json()) as {
    summary: { r2: number };
  };
  expect(fit.summary.r2).toBeGreaterThan(0.9);
});

test("home: a deleted study stands in a list with its last day, and comes back", async ({ page }) => {
  const title = `Discarded ${Date.now()}`;
  const id = await importStudy(page, { title });
  expect((await page.request.delete(`/api/studies/${id}`, { data: { revision: 1 } })).status()).toBe(200);
  await page.goto("/");
  await page.locator('[data-ready="yes"]').waitFor();
  await page.getByText(/^\d+ deleted stud/).click();
  const row = page.locator("div", { hasText: title }).filter({ hasText: "kept until" }).last();
  await expect(row).toBeVisible();
  expect(await axe(page)).toEqual([]);
  const days = page.getByLabel("Days for which a deleted study can be brought back");
  await days.fill("30");
  await days.blur();
  await expect
    .poll(async () => ((await (await page.request.get("/api/keeping")).json()) as { deletedDays: number }).deletedDays)
    .toBe(30);
  await page.request.patch("/api/keeping", { data: { deletedDays: 90 } });
  await row.getByRole("button", { name: "Bring back" }).click();
  await expect(page.getByRole("link", { name: title })).toBeVisible();
});

test("home: backed up, saved as a file, looked into, put beside what stands, and everything restored", async ({
  page,
  allowed,
}) => {
  allowed.statuses = [422];
  const title = `Backed up ${Date.now()}`;
  const id = await importStudy(page, { title });
  await page.goto("/");
  await page.locator('[data-ready="yes"]').waitFor();
  await page.getByRole("button", { name: "Backups" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("button", { name: "Back up now" }).click();
  await expect(dialog.getByRole("status")).toHaveText("Backed up.");
  expect(await axe(page)).toEqual([]);
  const row = dialog.locator("[data-backup^=asked]").first();
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    row.getByRole("link", { name: "Save file" }).click(),
  ]);
  const file = await download.path();
  // Renamed since, and another made: the backup says so before anything is restored.
  const renamed = [{ path: ["title"], from: title, to: `${title}, spoilt` }];
  expect((await page.request.patch(`/api/studies/${id}`, { data: { revision: 1, edits: renamed } })).status()).toBe(
    200,
  );
  const later = await importStudy(page, { title: `${title}, later` });
  await row.getByRole("button", { name: "Look inside" }).click();
  await expect(dialog.getByRole("row", { name: new RegExp(`${title}.*1 change since`) })).toBeVisible();
  await dialog.getByLabel(`Tick ${title}`).check();
  await dialog.getByRole("button", { name: "Put the ticked beside what stands" }).click();
  await expect(dialog.getByRole("status")).toHaveText("1 study put beside what stands.");
  await expect(page.getByRole("link", { name: new RegExp(`^${title} \\(as of`) })).toBeVisible();
  expect((await stored(page, id)).study.title).toBe(`${title}, spoilt`);
  // What is no backup is refused where it was offered.
  await dialog.locator('[data-file="backup"]').setInputFiles({
    name: "wool.trialmoor.json",
    mimeType: "application/json",
    buffer: Buffer.from('{"format": "trialmoor-study"}'),
  });
  await expect(dialog.getByRole("alert")).toHaveText(
    "wool.trialmoor.json is a study file, not a backup: open it with “Open a study file” on Home.",
  );
  await dialog.locator('[data-file="backup"]').setInputFiles(file);
  await expect(dialog.getByRole("status")).toContainText("stands among the backups");
  await dialog.locator("[data-backup^=brought]").first().getByRole("button", { name: "Look inside" }).click();
  await dialog.getByRole("button", { name: "Restore everything as it was" }).click();
  await expect(dialog).toContainText("a backup of it is made first");
  await dialog.getByRole("button", { name: "Restore everything", exact: true }).click();
  await expect(dialog.getByRole("status")).toContainText("what stood before is kept as before-restore-");
  expect((await stored(page, id)).study.title).toBe(title);
  expect((await page.request.get(`/api/studies/${later}`)).status()).toBe(404);
  await dialog.getByRole("button", { name: "Close" }).click();
  await expect(page.getByRole("link", { name: title, exact: true })).toBeVisible();
});
