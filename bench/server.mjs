// node bench/server.mjs: how quickly the server answers while others ask much of it, from the production build. Claims
// of speed stand here, not in the tests: what a test finds must not depend on what else the machine is doing.
import { execFileSync, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";
import writeXlsx from "write-excel-file/node";
import { warm } from "../scripts/lib.mjs";

const root = join(import.meta.dirname, "..");
const port = 4294;
const base = `http://127.0.0.1:${port}`;
const folder = mkdtempSync(join(tmpdir(), "trialmoor-bench-"));
const json = { "content-type": "application/json" };
const rest = (ms) => new Promise((r) => setTimeout(r, ms));
const quantile = (v, q) => [...v].sort((a, b) => a - b)[Math.min(v.length - 1, Math.floor(v.length * q))];
const row = (name, value, unit, wanted) =>
  console.log(`${name.padEnd(72)} ${`${value.toFixed(0)} ${unit}`.padStart(10)}   ${wanted}`);

const ask = async (method, path, body, headers = {}) => {
  const answer = await fetch(base + path, {
    method,
    headers: { ...json, ...headers },
    ...(body === undefined ? {} : { body: typeof body === "string" ? body : JSON.stringify(body) }),
  });
  const text = await answer.text();
  return { status: answer.status, data: text ? JSON.parse(text) : undefined };
};
const timed = async (work) => {
  const start = performance.now();
  await work();
  return performance.now() - start;
};
/** Longest wait for health while some work goes on. */
async function beside(work) {
  let over = false;
  let worst = 0;
  const asking = (async () => {
    while (!over) worst = Math.max(worst, await timed(() => ask("GET", "/api/health")));
  })();
  const took = await timed(work);
  over = true;
  await asking;
  return { took, worst };
}
const factors = (n) => Array.from({ length: n }, (_, i) => ({ id: `f${i}`, kind: "continuous", low: -1, high: 1 }));
const make = async (study) =>
  (await ask("POST", "/api/studies/import", { format: "trialmoor-study", version: 1, title: "bench", ...study }))
    .data[0].id;

async function entries(id, from, n) {
  const took = [];
  for (let i = from; i < from + n; i++)
    took.push(
      await timed(() =>
        ask(
          "POST",
          `/api/studies/${id}/trials/t${i}/entries`,
          { cell: "results", of: "y", value: i, was: null },
          { "idempotency-key": `b${id}-${i}` },
        ),
      ),
    );
  return took;
}

// One visit, measured from beginning to end.
async function measure() {
  const small = await make({
    factors: factors(3),
    responses: [{ id: "y" }],
    waves: [{ id: "w" }],
    trials: Array.from({ length: 400 }, (_, i) => ({ id: `t${i}`, wave: "w", settings: { f0: i, f1: 0, f2: -i } })),
  });
  row("an entry at the bench, median of 40", quantile(await entries(small, 0, 40), 0.5), "ms", "≤ 100 ms");

  const long = { family: "optimal", trials: 60, terms: "quadratic", starts: 100_000, background: true };
  const searched = await make({ factors: factors(6), responses: [{ id: "y" }] });
  const jobs = [];
  for (let i = 0; i < 18; i++) jobs.push((await ask("POST", `/api/studies/${searched}/plan`, long)).data.id);
  const health = [];
  const reads = [];
  for (let i = 0; i < 40; i++) {
    health.push(await timed(() => ask("GET", "/api/health")));
    reads.push(await timed(() => ask("GET", `/api/studies/${searched}`)));
  }
  row("health beside long searches, 95 of 100", quantile(health, 0.95), "ms", "≤ 200 ms");
  row("a study read beside long searches, 95 of 100", quantile(reads, 0.95), "ms", "≤ 500 ms");
  row(
    "a factorial beside long searches",
    await timed(() => ask("POST", `/api/studies/${searched}/plan`, { family: "factorial" })),
    "ms",
    "≤ 2,000 ms",
  );
  const busy = await entries(small, 100, 40);
  row("an entry beside long searches, 95 of 100", quantile(busy, 0.95), "ms", "≤ 500 ms");
  const stops = [];
  for (const id of jobs) stops.push(await timed(() => ask("DELETE", `/api/jobs/${id}`)));
  row("a long search stopped, the slowest of 18", Math.max(...stops), "ms", "≤ 1,000 ms");

  const big = JSON.stringify({
    format: "trialmoor-study",
    version: 1,
    title: "Large",
    factors: factors(3),
    responses: Array.from({ length: 20 }, (_, j) => ({ id: `y${j}` })),
    waves: [{ id: "w" }],
    trials: Array.from({ length: 5000 }, (_, i) => ({
      id: `t${i}`,
      wave: "w",
      state: "done",
      settings: { f0: Math.sin(i), f1: Math.cos(i), f2: Math.sin(3 * i) },
      results: Object.fromEntries(Array.from({ length: 20 }, (_, j) => [`y${j}`, i + j / 100])),
    })),
  });
  let large = "";
  const brought = await beside(async () => {
    large = (await ask("POST", "/api/studies/import", big)).data[0].id;
  });
  row("five thousand trials of twenty responses come in", brought.took, "ms", "≤ 5,000 ms");
  row("… longest wait for health meanwhile", brought.worst, "ms", "≤ 1,000 ms");
  for (const format of ["csv", "xlsx", "json"]) {
    const out = await beside(() =>
      fetch(`${base}/api/studies/${large}/export?format=${format}`).then((r) => r.arrayBuffer()),
    );
    row(`… written as ${format}`, out.took, "ms", "");
    row("… longest wait for health meanwhile", out.worst, "ms", "≤ 300 ms");
  }
  const flood = await beside(() => Promise.all(Array.from({ length: 3000 }, () => fetch(`${base}/api/health`))));
  row("3,000 calls of health at once", flood.took, "ms", "");
  row("… a change behind them", await timed(() => entries(small, 200, 1)), "ms", "≤ 500 ms");

  const browser = await chromium.launch({
    executablePath: "/usr/bin/chromium",
    args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--disable-background-networking"],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const opened = [];
  for (let i = 0; i < 4; i++) {
    await page.goto("about:blank");
    opened.push(
      await timed(async () => {
        await page.goto(`${base}/studies/${small}/bench`, { waitUntil: "commit" });
        await page.locator('[data-ready="yes"]').waitFor();
      }),
    );
  }
  row("the bench of 400 trials opens, best of 4", Math.min(...opened), "ms", "≤ 800 ms");

  const rows = 10_000;
  const sheeted = await make({
    factors: [{ id: "a", kind: "continuous", low: 0, high: rows }],
    responses: [
      { id: "y", name: "Yield" },
      { id: "z", name: "Haze" },
    ],
    waves: [{ id: "w1" }],
    trials: Array.from({ length: rows }, (_, i) => ({ id: `t${i + 1}`, wave: "w1", settings: { a: i } })),
  });
  await page.goto(`${base}/studies/${sheeted}/trials`);
  await page.locator('[data-ready="yes"]').waitFor();
  await page.getByRole("button", { name: /Paste or import/ }).click();
  const dialog = page.getByRole("dialog");
  const table = [["trial", "Yield", "Haze"], ...Array.from({ length: rows }, (_, i) => [i + 1, 40 + i / 1000, i / 7])];
  const look = async (name, buffer, wanted) => {
    const took = await timed(async () => {
      await dialog.locator("input[type=file]").setInputFiles({ name, mimeType: "application/octet-stream", buffer });
      await dialog.getByText("10000 rows matched").waitFor({ timeout: 60_000 });
    });
    row(`ten thousand rows looked at in the page, ${name}`, took, "ms", wanted);
    await page.getByLabel("Text to import").fill("");
    await rest(500);
  };
  await look("big.csv", Buffer.from(table.map((r) => r.join(",")).join("\n")), "≤ 2,000 ms");
  await look("big.xlsx", await writeXlsx(table).toBuffer(), "≤ 8,000 ms");
  await page.keyboard.press("Escape");

  let going = true;
  let ran = 0;
  const program = async (holder) => {
    while (going) {
      const { lease } = (await ask("POST", `/api/studies/${sheeted}/next`, { holder })).data;
      const sent = await ask("POST", `/api/studies/${sheeted}/next/${lease}/results`, { results: { y: 1, z: 2 } });
      if (sent.status === 200) ran++;
    }
  };
  const programs = ["one", "two"].map(program);
  await page.goto(`${base}/studies/${sheeted}/trials`);
  await page.locator('[data-ready="yes"]').waitFor();
  await page.getByTestId("ledger").focus();
  await page.keyboard.press("Control+End");
  await page.keyboard.press("Home");
  await page.keyboard.press("ArrowRight");
  const typed = [];
  for (let i = 0; i < 5; i++) {
    await rest(800);
    typed.push(
      await timed(async () => {
        await page.keyboard.type(String(i));
        await page.keyboard.press("Shift+Enter");
        await page.locator(`#cell-${rows - 1 - i}-1`, { hasText: String(i) }).waitFor({ timeout: 60_000 });
      }),
    );
  }
  going = false;
  await Promise.all(programs);
  row(
    `typed in a ledger of ${rows} beside two programs (${ran} trials run), median of 5`,
    quantile(typed, 0.5),
    "ms",
    "≤ 600 ms",
  );
  await browser.close();

  const cli = (n) => {
    const file = join(folder, `run${n}.json`);
    const study = {
      format: "trialmoor-study",
      version: 1,
      title: "run",
      factors: factors(1),
      responses: [{ id: "y" }],
      waves: [{ id: "w" }],
      trials: Array.from({ length: n }, (_, i) => ({ id: `t${i}`, wave: "w", settings: { f0: 0 } })),
    };
    execFileSync("sh", ["-c", 'cat > "$0"', file], { input: JSON.stringify(study) });
    const start = performance.now();
    execFileSync(process.execPath, [
      join(root, "dist/headless.mjs"),
      "run",
      file,
      "--program",
      "cat > /dev/null; echo y=1",
    ]);
    return performance.now() - start;
  };
  row("a trial that the command runs, beside the program's own time", (cli(61) - cli(1)) / 60, "ms", "≤ 30 ms");
}

const server = spawn(process.execPath, ["dist/serve.mjs"], {
  cwd: root,
  env: { ...process.env, PORT: String(port), NODE_ENV: "production", TRIALMOOR_DATA: join(folder, "data") },
  stdio: "ignore",
});
try {
  for (let i = 0; i < 300 && !(await fetch(`${base}/api/health`).catch(() => undefined))?.ok; i++) await rest(200);
  await warm(base);
  await measure();
} finally {
  server.kill();
  await new Promise((done) => server.once("exit", done));
  rmSync(folder, { recursive: true, force: true });
}
