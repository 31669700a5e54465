/**
 * Takes the pictures in docs/screenshots from the demo data, by the built application on folders of its own. Run: npx
 * tsx scripts/screenshots.ts
 */
import { execFileSync } from "node:child_process";
import { copyFileSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";
import { startBroker } from "../src/cli/rig/broker";
import { StandIn } from "../src/cli/rig/stand-in";
import { rigNamed } from "../src/core/operator";
import { setPassphrase } from "../src/server/access/passphrase";
import { certificate } from "../src/server/testing/certificate";
import { ownServer } from "../src/server/testing/own-server";

const folder = mkdtempSync(join(tmpdir(), "trialmoor-pictures-"));
const here = await ownServer(4270, join(folder, "here"), { TRIALMOOR_DEMO: "1" });
const { base } = here;
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--disable-background-networking"],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
/** Pictures side by side in one file, at the height of the first. */
const together = async (name: string, pictures: readonly Buffer[], height: number): Promise<void> => {
  const images = pictures.map((p) => `<img src="data:image/png;base64,${p.toString("base64")}" height="${height}">`);
  const side = await browser.newPage({ viewport: { width: 3400, height: height + 32 } });
  await side.setContent(
    `<body style="margin:0;display:inline-flex;gap:16px;padding:16px;background:#ddd8cb">${images.join("")}</body>`,
  );
  await side.locator("body").screenshot({ path: `docs/screenshots/${name}.png` });
  await side.close();
};
const shot = (name: string): Promise<Buffer> => page.screenshot({ path: `docs/screenshots/${name}.png` });
const visit = async (id: string, station: string): Promise<void> => {
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
  await visit(id, "plan");
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
await visit(looked.id, "history");
await page.locator('[data-revision="1"]').getByRole("button").first().click();
await page.getByTestId("beside").waitFor();
await page.waitForTimeout(600);
const past = await page.screenshot();
await page.request.post(`${base}/api/backups`);
await page.goto(base);
await page.locator('[data-ready="yes"]').waitFor();
await page.getByRole("button", { name: "Backups" }).click();
await page.getByRole("button", { name: "Look inside" }).first().click();
await page.waitForTimeout(1000);
await together("history", [past, await page.screenshot()], 640);

// A study begun with a sheet: what each column is guessed to be.
const heights = [
  "Run,Heat (°C),Heat coded,Line,Height 1 (mm),Height 2 (mm),Mass [g],Shift,Remark",
  "3,60,1,east,5.1,5.3,12.4,day,",
  "1,40,-1,east,4.0,4.2,10.9,day,first of the day",
  "2,60,1,west,5.6,5.5,13.0,day,",
  "4,40,-1,west,4.4,4.5,11.7,day,stopped once",
  "5,50,0,east,4.6,4.7,11.9,day,",
  "6,50,0,west,4.9,5.0,12.2,day,",
];
await page.goto(base);
await page.locator('[data-ready="yes"]').waitFor();
await page.getByLabel("Name of the new study").fill("Loft heights");
await page.getByRole("button", { name: "From a sheet…" }).click();
await page.getByLabel("Sheet as text").fill(heights.join("\n"));
await page.waitForTimeout(600);
await shot("sheet");

// Programs and rigs at work on the peat dryer and on the wool line, and what each input of the dryer moves.
const dryer = join(folder, "dryer.json");
copyFileSync("examples/peat-dryer/peat-dryer.trialmoor.json", dryer);
const headless = (...args: string[]): string =>
  execFileSync(process.execPath, ["dist/headless.mjs", ...args]).toString();
headless("plan", dryer, "--family", "definitive", "--trials", "21", "--centre", "3", "--adopt");
headless("run", dryer, "--program", "node examples/peat-dryer/simulate.mjs", "--at-once", "2");
const dried = JSON.parse(readFileSync(dryer, "utf8")) as { responses: { id: string }[] };
for (const { id } of dried.responses) headless("fit", dryer, "--response", id, "--terms", "main", "--store");
const [{ id: peat }] = (await post(
  "/api/studies/import",
  JSON.parse(readFileSync(dryer, "utf8")) as object,
)) as unknown as { id: string }[];
await visit(peat, "model");
await page.getByRole("button", { name: "All responses" }).click();
await page.getByTestId("influence").waitFor();
await page.getByRole("button", { name: /Retire the other/ }).scrollIntoViewIfNeeded();
await page.waitForTimeout(1200);
const influence = await page.screenshot();
const broker = await startBroker(0);
writeFileSync(join(folder, "here", "rigs.json"), JSON.stringify({ broker: `mqtt://127.0.0.1:${broker.port}` }));
const standIn = new StandIn("east-line", rigNamed("wool-line"), {
  broker: `mqtt://127.0.0.1:${broker.port}`,
  seconds: 2,
});
const repeated = await post("/api/studies", { example: "wool-scouring" });
await post(`/api/studies/${repeated.id}/follow`, { kind: "repeat", adopt: true, revision: repeated.revision });
await post(`/api/studies/${repeated.id}/next`, { holder: "scour-sim on node 3" });
await visit(repeated.id, "trials");
await page.getByRole("button", { name: "By a program or rig" }).click();
await page.getByTestId("script").waitFor();
await page.waitForTimeout(6000);
const program = await page.screenshot();
await page.getByText("A rig", { exact: true }).click();
await page.getByRole("button", { name: /Run these/ }).click();
await page.waitForTimeout(7000);
await together("programs", [program, await page.screenshot()], 640);
await page.request.put(`${base}/api/studies/${repeated.id}/rigs/east-line`, { data: { do: "stop" } });
await standIn.close();
await broker.close();
rmSync(join(folder, "here", "rigs.json"));

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
const narrow: Buffer[] = [await page.screenshot()];
for (const [width, height] of [
  [820, 1180],
  [390, 844],
]) {
  const tablet = await browser.newContext({ viewport: { width, height }, hasTouch: true, isMobile: true });
  const held = await tablet.newPage();
  await held.goto(`${base}/studies/${waiting}/bench`);
  await held.locator('[data-ready="yes"]').waitFor();
  await held.waitForTimeout(400);
  narrow.push(await held.screenshot());
  await tablet.close();
}
await together("bench", narrow, 844);

// On paper: a run sheet and a page of cards.
const paper: Buffer[] = [];
for (const as of ["sheet", "cards"]) {
  await page.goto(`${base}/studies/${waiting}/paper?as=${as}`);
  const pdf = join(folder, as);
  await page.pdf({ path: `${pdf}.pdf`, preferCSSPageSize: true, printBackground: true });
  execFileSync("pdftoppm", ["-png", "-r", "80", "-singlefile", `${pdf}.pdf`, pdf]);
  paper.push(readFileSync(`${pdf}.png`));
}
await together("paper", paper, 660);

for (const station of ["question", "trials", "model", "setpoint", "report"]) {
  await visit(wool, station);
  if (station === "setpoint") await page.getByTestId("candidates").waitFor({ timeout: 60_000 });
  await page.waitForTimeout(1500);
  await shot(station);
  if (station !== "model") continue;
  const views: Buffer[] = [];
  for (const view of ["Pairs", "Limits", "Checks"]) {
    await page.getByRole("tab", { name: view }).click();
    await page.waitForTimeout(600);
    views.push(await page.screenshot());
  }
  await together("model-views", [...views, influence], 640);
}

// What is counted: said on Question, typed in the ledger, modelled, and confirmed with units beside.
const press = studies.find((s) => s.title.startsWith("Horn"))?.id ?? "";
const counted: Buffer[] = [];
await visit(press, "question");
await page.getByRole("button", { name: "Menu of Cracked" }).click();
await page.getByRole("menuitem", { name: /How it is measured/ }).click();
await page.waitForTimeout(400);
counted.push(await page.screenshot());
for (const station of ["trials", "model"]) {
  await visit(press, station);
  await page.waitForTimeout(1500);
  counted.push(await page.screenshot());
}
await visit(press, "setpoint");
await page.getByTestId("candidates").waitFor({ timeout: 60_000 });
await page.waitForTimeout(1000);
await page.getByTestId("confirmation").scrollIntoViewIfNeeded();
await page.waitForTimeout(300);
counted.push(await page.screenshot());
await together("counted", counted, 560);

// A factor that is hard to change: planned in set-ups, run in them, judged between and within, confirmed over them.
const smoke = studies.find((s) => s.title.startsWith("Skerry"))?.id ?? "";
const unplanned = await post("/api/studies", { example: "fish-smokehouse", questionOnly: true });
const setups: Buffer[] = [];
await visit(unplanned.id, "plan");
await page.locator("[data-plan]").first().waitFor({ timeout: 30_000 });
await page.locator('[data-searching="no"]').waitFor({ timeout: 90_000 });
await page.waitForTimeout(800);
setups.push(await page.screenshot());
for (const station of ["trials", "model"]) {
  await visit(smoke, station);
  await page.waitForTimeout(1500);
  if (station === "model") await page.getByRole("tab", { name: "Table" }).click();
  await page.waitForTimeout(300);
  setups.push(await page.screenshot());
}
await visit(smoke, "setpoint");
await page.getByTestId("candidates").waitFor({ timeout: 60_000 });
await page.waitForTimeout(1000);
await page.getByLabel("Set-ups of the confirmation").fill("2");
await page.getByLabel("Set-ups of the confirmation").scrollIntoViewIfNeeded();
await page.waitForTimeout(300);
setups.push(await page.screenshot());
await together("setups", setups, 560);

// A confirmation run on the virtual line, and its verdict.
const tested = await post("/api/studies", { example: "wool-scouring" });
const planned = await post(`/api/studies/${tested.id}/follow`, {
  kind: "confirm",
  trials: 4,
  adopt: true,
  revision: tested.revision,
});
await post(`/api/studies/${tested.id}/rig`, { name: "wool-line", revision: planned.revision });
await visit(tested.id, "setpoint");
await page.getByTestId("candidates").waitFor({ timeout: 60_000 });
await page.waitForTimeout(1000);
await page.getByTestId("confirmation").scrollIntoViewIfNeeded();
await page.waitForTimeout(300);
await shot("setpoint-verdict");

// Open to a network: the way in, and a tablet's link.
const network = join(folder, "network");
mkdirSync(network);
const { key, cert } = certificate(join(folder, "tls"), "localhost");
await setPassphrase(network, "heather on the lower moor");
const opened = await ownServer(
  4271,
  network,
  {
    TRIALMOOR_DEMO: "1",
    TRIALMOOR_HOST: "0.0.0.0",
    TRIALMOOR_NAMES: "localhost",
    TRIALMOOR_TLS_KEY: key,
    TRIALMOOR_TLS_CERT: cert,
  },
  "https://localhost:4271",
);
const known = await browser.newContext({
  baseURL: opened.base,
  ignoreHTTPSErrors: true,
  viewport: { width: 1280, height: 800 },
});
const desk = await known.newPage();
await desk.goto("/");
await desk.getByLabel("Your name").fill("Mirja Holt");
const login = await desk.screenshot();
await known.request.post("/api/session", { data: { passphrase: "heather on the lower moor", name: "Mirja Holt" } });
const [{ id: line }] = (
  (await (await known.request.get("/api/studies")).json()) as { id: string; title: string }[]
).filter((s) => s.title.startsWith("Fellgate"));
for (const name of ["By the second bowl", "Scale in the laboratory"])
  await known.request.post(`/api/studies/${line}/keys`, { data: { name } });
await desk.goto(`/studies/${line}/trials`);
await desk.locator('[data-ready="yes"]').waitFor();
await desk.getByRole("button", { name: "Take along" }).click();
await desk.getByRole("menuitem", { name: /Tablets/ }).click();
await desk.getByRole("row", { name: /By the second bowl/ }).waitFor();
await desk.waitForTimeout(400);
await together("network", [login, await desk.screenshot()], 560);
await browser.close();
for (const server of [here, opened]) await server.stop();
rmSync(folder, { recursive: true, force: true });
