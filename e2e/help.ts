import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { type Browser, type BrowserContext, test as base, expect, type Page } from "@playwright/test";

const axeSource = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

/** What a page leaves in its browser for later pages, but for the files of the application itself. */
const LEFT_BEHIND = "cookies,local_storage,indexeddb,service_workers,cache_storage,file_systems";

/**
 * A browser of one worker, whose profile is kept: files and compiled code of the application are fetched and made once,
 * not for every test. Each test finds it without pages, storage, permissions or routes of the one before.
 *
 * `allowed` is what the page may say: a test that provokes a refusal names its status, or the part of an address that
 * fails.
 */
export const test = base.extend<
  { allowed: { statuses: number[]; failing: string[] } },
  { kept: { context: BrowserContext } }
>({
  kept: [
    async ({ playwright, launchOptions }, use, { project }) => {
      const { baseURL, viewport, contextOptions } = project.use;
      const context = await playwright.chromium.launchPersistentContext("", {
        ...launchOptions,
        ...contextOptions,
        baseURL: baseURL as string,
        viewport: viewport ?? null,
      });
      await use({ context });
      await context.close();
    },
    { scope: "worker" },
  ],
  context: async ({ kept: { context }, baseURL }, use) => {
    await use(context);
    const last = await context.newPage();
    for (const page of context.pages()) if (page !== last) await page.close();
    await context.unrouteAll({ behavior: "ignoreErrors" });
    await context.clearPermissions();
    const client = await context.newCDPSession(last);
    await client.send("Storage.clearDataForOrigin", { origin: baseURL ?? "", storageTypes: LEFT_BEHIND });
    await context.clearCookies();
  },
  // biome-ignore lint/correctness/noEmptyPattern: fixtures take their dependencies this way.
  allowed: async ({}, use) => {
    await use({ statuses: [], failing: [] });
  },
  page: async ({ page, allowed }, use) => {
    const troubles: string[] = [];
    page.on("console", (m) => {
      const provoked =
        allowed.statuses.some((s) => m.text().includes(String(s))) ||
        allowed.failing.some((part) => m.location().url.includes(part));
      if (m.type() === "error" && !provoked) troubles.push(`${m.text()} ${m.location().url}`);
    });
    page.on("pageerror", (e) => troubles.push(e.message));
    page.on("requestfailed", (r) => {
      // Leaving a page while it still loads something is no failure.
      if (r.failure()?.errorText !== "net::ERR_ABORTED" && !allowed.failing.some((part) => r.url().includes(part)))
        troubles.push(`${r.method()} ${r.url()}`);
    });
    page.on("response", (r) => {
      if (r.status() >= 400 && !allowed.statuses.includes(r.status())) troubles.push(`${r.status()} ${r.url()}`);
    });
    await use(page);
    expect(troubles).toEqual([]);
  },
});
export { expect };

/** Longest wait for what is worked out, in milliseconds: for a moment a machine may run at a tenth of its speed. */
export const WORKED_OUT = 300_000;

/** Waits until Setpoint's search has its candidates. */
export const candidatesFound = (page: Page): Promise<void> =>
  expect(page.getByTestId("candidates")).toBeVisible({ timeout: WORKED_OUT });

/** Opens a station of a study and waits until it answers to keys. */
export async function visit(page: Page, id: string, station: string): Promise<void> {
  await page.goto(`/studies/${id}/${station}`);
  await page.locator('[data-ready="yes"]').waitFor();
}

/** Picks one of a list, by keys to open it and by hand to choose. */
export async function choose(page: Page, label: string, value: string): Promise<void> {
  const list = page.getByRole("combobox", { name: label, exact: true });
  await list.focus();
  await list.press("ArrowDown");
  await page.locator(`.ant-select-dropdown:visible [data-choice="${value}"]`).click();
}

/** Presses one of a row of choices. */
export const press = (page: Page, group: string, name: string): Promise<void> =>
  page.getByRole("radiogroup", { name: group }).getByText(name, { exact: true }).click();

/** Waits until everything that was changed is on disk. */
export const saved = (page: Page): Promise<void> =>
  expect(page.locator("[data-saved]")).toHaveAttribute("data-saved", "yes");

/** Opens a copy of the wool line of the shipped examples and answers its id. */
export async function openExample(page: Page, name = "wool-scouring"): Promise<string> {
  const made = await page.request.post("/api/studies", { data: { example: name } });
  return ((await made.json()) as { id: string }).id;
}

/** A study made through HTTP from a study file. */
export async function importStudy(page: Page, study: object): Promise<string> {
  const made = await page.request.post("/api/studies/import", {
    data: { format: "trialmoor-study", version: 1, title: "Test", ...study },
  });
  expect(made.status()).toBe(201);
  return ((await made.json()) as { id: string }[])[0].id;
}

export interface StudyJson {
  revision: number;
  study: {
    title: string;
    factors: { id: string; name: string; low?: number; high?: number }[];
    responses: { id: string; name: string }[];
    trials: {
      id: string;
      order: number;
      state: string;
      use: boolean;
      settings: Record<string, unknown>;
      asRun?: Record<string, unknown>;
      results: Record<string, unknown>;
      note: string;
    }[];
    waves: { plan: { seed?: number } }[];
    models: { response: string; terms: string[][] }[];
    setpoint?: { settings: Record<string, unknown> };
  };
}

/** The study as the server has it. */
export async function stored(page: Page, id: string): Promise<StudyJson> {
  return (await (await page.request.get(`/api/studies/${id}`)).json()) as StudyJson;
}

/** Serious and critical findings of axe on the page as it stands. */
export async function axe(page: Page): Promise<string[]> {
  await page.evaluate(axeSource);
  const found = await page.evaluate(async () => {
    const run = (
      window as unknown as {
        axe: { run(o: object): Promise<{ violations: { id: string; impact: string; nodes: { html: string }[] }[] }> };
      }
    ).axe;
    return (await run.run({ resultTypes: ["violations"] })).violations.map((v) => ({
      id: v.id,
      impact: v.impact,
      html: v.nodes[0].html.slice(0, 160),
    }));
  });
  return found.filter((v) => v.impact === "serious" || v.impact === "critical").map((v) => `${v.id}: ${v.html}`);
}

/** Nothing that a person reads says NaN, Infinity or undefined. */
export async function readsWell(page: Page): Promise<void> {
  const text = await page.locator("body").innerText();
  expect(text).not.toMatch(/\bNaN\b|\bInfinity\b|\bundefined\b/);
}

/** A tablet beside the machine, touched instead of pointed at. */
export const tabletOf = (browser: Browser, baseURL: string | undefined): Promise<BrowserContext> =>
  browser.newContext({
    ...(baseURL === undefined ? {} : { baseURL }),
    viewport: { width: 820, height: 1180 },
    hasTouch: true,
    isMobile: true,
  });
