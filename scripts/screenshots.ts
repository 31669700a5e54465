/**
 * Takes the pictures in docs/screenshots from the demo data of a running application. Run: npx tsx
 * scripts/screenshots.ts URL
 */
import { readFileSync } from "node:fs";
import { chromium } from "@playwright/test";

const base = process.argv[2] ?? "http://127.0.0.1:4270";
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--disable-background-networking"],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const shot = (name: string): Promise<Buffer> => page.screenshot({ path: `docs/screenshots/${name}.png` });
const open = async (id: string, station: string): Promise<void> => {
  await page.goto(`${base}/studies/${id}/${station}`);
  await page.locator('[data-ready="yes"]').waitFor();
};
const post = async (path: string, data: object): Promise<{ id: string; revision: number }> =>
  (await (await page.request.post(`${base}${path}`, { data })).json()) as { id: string; revision: number };

await page.goto(base);
await page.waitForLoadState("networkidle");
await shot("home");
const studies = (await (await page.request.get(`${base}/api/studies`)).json()) as { id: string; title: string }[];
const wool = studies.find((s) => s.title.startsWith("Fellgate"))?.id ?? "";

// Plan: the first wave from the question alone, then what may follow the waves that were run.
const asked = await post("/api/studies", { example: "wool-scouring", questionOnly: true });
for (const [id, name] of [
  [asked.id, "plan"],
  [wool, "plan-next"],
] as const) {
  await open(id, "plan");
  await page.locator("[data-plan]").first().waitFor({ timeout: 30_000 });
  await page.locator('[data-searching="no"]').waitFor({ timeout: 60_000 });
  await page.waitForTimeout(800);
  await shot(name);
  if (name !== "plan") continue;
  await page.getByRole("button", { name: /Term map/ }).click();
  for (const row of ["Power", "Where it runs"]) await page.getByRole("button", { name: new RegExp(row) }).click();
  await page.locator("#row-df").evaluate((e) => e.scrollIntoView({ block: "start" }));
  await page.waitForTimeout(300);
  await shot("plan-rows");
}
// A history with a mark in it, a past state beside the present, and the backups.
const looked = await post("/api/studies", { example: "wool-scouring" });
type Cells = { path: string[]; from: unknown; to: unknown }[];
let revision = looked.revision;
const change = async (who: string, what: string, edits: Cells): Promise<void> => {
  const headers = { "x-trialmoor-who": encodeURIComponent(who) };
  const data = { revision, edits, what };
  const made = await page.request.patch(`${base}/api/studies/${looked.id}`, { data, headers });
  ({ revision } = (await made.json()) as { revision: number });
};
const { study } = (await (await page.request.get(`${base}/api/studies/${looked.id}`)).json()) as {
  study: {
    trials: { id: string; order: number; settings: Record<string, number>; results: Record<string, number> }[];
    models: { response: string; terms: string[][] }[];
  };
};
const [third, twelfth] = [3, 12].map((n) => study.trials.find((t) => t.order === n) ?? study.trials[0]);
const [model] = study.models;
await change("Mirja Holt", "trial 12", [
  { path: ["trials", twelfth.id, "asRun", "temp"], from: null, to: (twelfth.settings.temp ?? 0) - 2 },
]);
await change("Per Aske", "trial 3", [
  { path: ["trials", third.id, "results", "grease"], from: third.results.grease, to: 0.61 },
]);
await page.request.post(`${base}/api/studies/${looked.id}/marks`, {
  data: { name: "before the second wave", station: "plan" },
  headers: { "x-trialmoor-who": "Mirja%20Holt" },
});
await change("Mirja Holt", "took a term out", [
  { path: ["models", model.response, "terms"], from: model.terms, to: model.terms.slice(0, -1) },
]);
await change("Mirja Holt", "lower feed", [{ path: ["factors", "feed", "low"], from: 450, to: 400 }]);
await open(looked.id, "history");
await page.locator('[data-revision="1"]').getByRole("button").first().click();
await page.getByTestId("beside").waitFor();
await page.waitForTimeout(600);
await shot("history");
await page.request.post(`${base}/api/backups`);
await page.goto(base);
await page.locator('[data-ready="yes"]').waitFor();
await page.getByRole("button", { name: "Backups" }).click();
await page.getByRole("button", { name: "Look inside" }).first().click();
await page.waitForTimeout(1000);
await shot("backups");

// At the bench: a trial that waits, with a result that is asked about.
const example = JSON.parse(readFileSync("examples/wool-scouring.trialmoor.json", "utf8")) as {
  trials: { order: number; state: string; results: object; asRun?: object }[];
};
const half = example.trials.map((t) => (t.order <= 11 ? t : { ...t, state: "planned", results: {}, asRun: undefined }));
const begun = await post("/api/studies/import", { ...example, trials: half, models: [], setpoint: undefined });
const [{ id: waiting }] = begun as unknown as { id: string }[];
await page.goto(`${base}/studies/${waiting}/bench`);
await page.locator('[data-ready="yes"]').waitFor();
await page.getByLabel("Whiteness", { exact: true }).fill("621");
await page.getByLabel("Whiteness", { exact: true }).press("Enter");
await page.waitForTimeout(400);
await shot("bench");

for (const station of ["question", "trials", "model", "setpoint", "report"]) {
  await open(wool, station);
  if (station === "setpoint") await page.getByTestId("candidates").waitFor({ timeout: 60_000 });
  await page.waitForTimeout(1500);
  await shot(station);
  if (station === "model")
    for (const view of ["Pairs", "Limits", "Checks", "Residuals", "Beside"]) {
      await page.getByRole("tab", { name: view }).click();
      await page.waitForTimeout(600);
      await shot(`model-${view.toLowerCase()}`);
    }
  if (station === "setpoint") {
    await page.getByRole("combobox", { name: "Picture" }).focus();
    await page.keyboard.press("ArrowDown");
    await page.locator('.ant-select-dropdown:visible [data-choice="trade"]').click();
    await page.waitForTimeout(600);
    await shot("setpoint-trade");
  }
}

// A confirmation run on the virtual line, and its verdict.
const tested = await post("/api/studies", { example: "wool-scouring" });
const planned = await post(`/api/studies/${tested.id}/follow`, {
  kind: "confirm",
  trials: 4,
  adopt: true,
  revision: tested.revision,
});
await post(`/api/studies/${tested.id}/rig`, { name: "wool-line", revision: planned.revision });
await open(tested.id, "setpoint");
await page.getByTestId("candidates").waitFor({ timeout: 60_000 });
await page.waitForTimeout(1000);
await page.getByTestId("confirmation").scrollIntoViewIfNeeded();
await page.waitForTimeout(300);
await shot("setpoint-verdict");
await browser.close();
