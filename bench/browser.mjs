// node bench/browser.mjs [COMMIT] [ROUNDS]: speed in the browser, from the production build: first load, toggling a
// term, opening a large study. With a commit, that commit is built beside and both are measured in turn, as ratios.
import { execFileSync, spawn } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { chromium } from "@playwright/test";
import { warm } from "../scripts/lib.mjs";

const root = join(import.meta.dirname, "..");
const port = 4293;
const base = `http://127.0.0.1:${port}`;
const median = (v) => [...v].sort((a, b) => a - b)[Math.floor(v.length / 2)];

/** How long a term in or out takes, from the key to the paint: medians of 25 presses on the Model station open. */
async function toggled(page) {
  const cdp = await page.context().newCDPSession(page);
  const events = [];
  cdp.on("Tracing.dataCollected", (e) => events.push(...e.value));
  await page.evaluate(() => {
    globalThis.shown = [];
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) if (e.name === "keydown") globalThis.shown.push(e.duration);
    }).observe({ type: "event", durationThreshold: 16 });
    document.querySelector('[data-testid="ladder"]').focus();
  });
  await cdp.send("Tracing.start", {
    categories: "devtools.timeline,disabled-by-default-devtools.timeline",
    transferMode: "ReportEvents",
  });
  // Out goes each rung, and in again after the next is out: never a model that was fitted before.
  const steps = [
    "",
    ...Array.from({ length: 12 }, (_, i) => ["ArrowDown", ...(i > 0 ? ["ArrowDown"] : []), "", "ArrowUp", ""]).flat(),
  ];
  for (const key of steps) {
    await page.keyboard.press(key === "" ? "Shift+Space" : key);
    // A person looks before the next press; meanwhile checks and readings are worked out aside.
    await page.waitForTimeout(key === "" ? 900 : 50);
  }
  const traced = new Promise((r) => cdp.once("Tracing.tracingComplete", r));
  await cdp.send("Tracing.end");
  await traced;
  await cdp.detach();
  // From the key to the end of the first frame's painting, which shows ladder, view and probe; the trail's fact
  // follows. An arrow is one key down, shift and space are two, of which the second counts.
  const down = events
    .filter((e) => e.name === "EventDispatch" && e.args?.data?.type === "keydown")
    .sort((a, b) => a.ts - b.ts);
  const meant = steps.flatMap((key) => (key === "" ? [false, true] : [false]));
  if (down.length !== meant.length) throw new Error(`${down.length} keys went down, ${meant.length} were pressed`);
  const keys = down.filter((_, i) => meant[i]);
  const commits = events.filter((e) => e.name === "Commit" && keys[0]?.tid === e.tid).sort((a, b) => a.ts - b.ts);
  const frames = keys.map((k) =>
    commits.filter((c) => c.ts > k.ts + k.dur).map((c) => (c.ts + (c.dur ?? 0) - k.ts) / 1000),
  );
  return {
    first: median(frames.flatMap((f) => f.slice(0, 1))),
    second: median(frames.flatMap((f) => f.slice(1, 2))),
    shown: median(await page.evaluate(() => globalThis.shown)),
  };
}

// One visit, measured from beginning to end.
/** The figures of a built application in a folder, each with its unit and what is wanted of it. */
async function measure(folder) {
  const server = spawn(process.execPath, ["dist/serve.mjs"], {
    cwd: folder,
    env: {
      ...process.env,
      PORT: String(port),
      NODE_ENV: "production",
      TRIALMOOR_DATA: mkdtempSync(join(tmpdir(), "trialmoor-bench-")),
    },
    stdio: "ignore",
  });
  const taken = [];
  const row = (name, value, unit, wanted) => taken.push({ name, value, unit, wanted });
  try {
    for (let i = 0; i < 100; i++) {
      if (
        await fetch(`${base}/api/health`).then(
          (r) => r.ok,
          () => false,
        )
      )
        break;
      await new Promise((r) => setTimeout(r, 200));
    }
    const make = async (file) =>
      (
        await (
          await fetch(`${base}/api/studies/import`, {
            method: "POST",
            headers: { "content-type": "application/json" },
            body: JSON.stringify({ format: "trialmoor-study", version: 1, title: "bench", ...file }),
          })
        ).json()
      )[0].id;
    const ids = "abcdefgh".split("");
    const terms = [...ids.map((a) => [a]), ...ids.flatMap((a, i) => ids.slice(i + 1).map((b) => [a, b]))].slice(0, 30);
    const trials = (n) =>
      Array.from({ length: n }, (_, i) => ({
        id: `t${i}`,
        wave: "w",
        state: "done",
        settings: Object.fromEntries(ids.map((id, j) => [id, Math.sin(i * (j + 1.3) * 1.7)])),
        results: { y: Math.cos(i * 2.1) * 3 + i * 0.01 },
      }));
    const factors = ids.map((id) => ({ id, kind: "continuous", low: -1, high: 1 }));
    const browser = await chromium.launch({
      executablePath: "/usr/bin/chromium",
      args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--disable-background-networking"],
    });
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });

    const model = await make({
      factors,
      responses: [{ id: "y" }],
      waves: [{ id: "w" }],
      trials: trials(100),
      models: [{ response: "y", terms }],
    });
    let bytes = 0;
    const gzipped = async (url) => gzipSync(Buffer.from(await (await fetch(url)).arrayBuffer())).length;
    const scripts = new Set();
    page.on("response", (r) => r.request().resourceType() === "script" && scripts.add(r.url()));
    const open = async (id, station) => {
      const start = performance.now();
      await page.goto(`${base}/studies/${id}/${station}`);
      await page.locator('[data-ready="yes"]').waitFor();
      return performance.now() - start;
    };
    // A browser that runs and has never seen the application: its own start is not ours to time.
    await page.goto("about:blank");
    await (await browser.newPage()).goto(`${base}/api/health`);
    await warm(base);
    const cold = await open(model, "model");
    row("first load of Model to interactive, cold cache", cold, "ms", "≤ 1,200 ms (1,000 before)");
    for (const url of scripts) bytes += await gzipped(url);
    row("first-load JavaScript, compressed", bytes / 1024, "kB", "≤ 520 kB (450 before)");
    const plain = await toggled(page);
    row("a term in or out to the paint of ladder, map and probe, 100 × 30", plain.first, "ms", "≤ 50 ms");
    row("… to the paint of the trail's fact, which follows", plain.second, "ms", "");
    row("… until it stands on the screen, drawn without a graphics card", plain.shown, "ms", "");
    // A factor the map does not show is dragged in the probe: every position draws all contours anew.
    const track = await page.getByRole("slider", { name: "h at the probe" }).boundingBox();
    await page.evaluate(() => {
      const map = document.querySelector('[role="tabpanel"] svg[role="application"]');
      globalThis.drawn = 0;
      let seen = "";
      const look = () => {
        const now = [...map.querySelectorAll("path")].map((p) => p.getAttribute("d")).join();
        if (now !== seen) globalThis.drawn++;
        seen = now;
        globalThis.looking = requestAnimationFrame(look);
      };
      look();
    });
    await page.mouse.move(track.x + 10, track.y + track.height / 2);
    await page.mouse.down();
    const dragged = performance.now();
    for (let i = 0; performance.now() - dragged < 3000; i++)
      await page.mouse.move(track.x + track.width * (0.5 + 0.45 * Math.sin(i / 25)), track.y + track.height / 2);
    const took = performance.now() - dragged;
    await page.mouse.up();
    row(
      "contour map following a dragged probe",
      (1000 * (await page.evaluate(() => globalThis.drawn))) / took,
      "frames/s",
      "≥ 30",
    );
    // Two factors hard to change, kept for five trials at a time.
    const kept = trials(100);
    const oven = await make({
      factors: factors.map((f) => (f.id < "c" ? { ...f, change: "hard" } : f)),
      responses: [{ id: "y" }],
      waves: [{ id: "w" }],
      trials: kept.map((t, i) => {
        const { a, b } = kept[i - (i % 5)].settings;
        return { ...t, setup: Math.floor(i / 5) + 1, settings: { ...t.settings, a, b } };
      }),
      models: [{ response: "y", terms }],
    });
    await open(oven, "model");
    await page.waitForTimeout(1500);
    row("a term in or out to the paint, 100 × 30 in 20 set-ups", (await toggled(page)).first, "ms", "≤ 80 ms");
    const large = await make({ factors, responses: [{ id: "y" }], waves: [{ id: "w" }], trials: trials(1000) });
    row("opening a study with 1,000 trials", await open(large, "trials"), "ms", "≤ 1,000 ms");
    const [shipped] = (await (await fetch(`${base}/api/studies`)).json()).filter((s) => s.title.startsWith("Fellgate"));
    for (const station of ["question", "plan", "trials", "model", "setpoint", "report"]) {
      const times = [];
      for (let i = 0; i < 3; i++) {
        // A context of its own has an empty cache.
        const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
        const fresh = await context.newPage();
        await fresh.goto("about:blank");
        await fresh.waitForTimeout(500);
        const start = performance.now();
        await fresh.goto(`${base}/studies/${shipped.id}/${station}`);
        await fresh.locator('[data-ready="yes"]').waitFor();
        times.push(performance.now() - start);
        await context.close();
      }
      row(
        `first load of ${station[0].toUpperCase()}${station.slice(1)} with the wool line, median of 3`,
        median(times),
        "ms",
        "≤ 1,200 ms (1,000 before)",
      );
    }
    // From another station: what has been loaded once is there, and the page is not read anew.
    await open(shipped.id, "question");
    // A person looks before going on; meanwhile the other pages are fetched.
    await page.waitForTimeout(3000);
    for (const station of ["Plan", "Trials", "Model", "Setpoint", "Report", "Question"]) {
      const start = performance.now();
      await page.getByRole("link", { name: new RegExp(`^${station}`) }).click();
      await page.waitForURL(new RegExp(`${station.toLowerCase()}$`));
      await page
        .getByRole("heading", { level: 1, name: station === "Report" ? shipped.title : station, exact: true })
        .waitFor();
      row(`${station} from another station`, performance.now() - start, "ms", "≤ 300 ms");
      if (station === "Plan") await page.locator('[data-searching="no"]').waitFor({ timeout: 60_000 });
      await page.waitForTimeout(1500);
    }
    await browser.close();
  } finally {
    server.kill();
  }
  await new Promise((done) => server.once("exit", done));
  return taken;
}

/** A commit built in a folder of its own, its packages linked. */
function built(commit) {
  const folder = join(root, "dist/before");
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const archive = execFileSync("git", ["archive", commit], { cwd: root, maxBuffer: 1 << 29 });
  execFileSync("tar", ["-x", "-C", folder], { input: archive });
  execFileSync("cp", ["-al", join(root, "node_modules"), folder]);
  execFileSync(process.execPath, ["-e", 'import("./scripts/lib.mjs").then((l) => l.buildApp())'], {
    cwd: folder,
    stdio: "inherit",
  });
  return folder;
}

const [commit, rounds = "3"] = process.argv.slice(2);
const folders = commit ? [built(commit), root] : [root];
const runs = folders.map(() => []);
for (let r = 0; r < (commit ? Number(rounds) : 1); r++)
  // Each goes first in turn: what runs second finds a warmer machine.
  for (const i of !commit ? [0] : r % 2 ? [1, 0] : [0, 1]) runs[i].push(await measure(folders[i]));
if (commit) console.log(`against ${commit}, medians of ${rounds} rounds in turn`);
for (const [k, { name, unit, wanted }] of runs.at(-1)[0].entries()) {
  const values = runs.map((taken) => median(taken.map((t) => t[k].value)));
  const ratio = commit ? `× ${(values[1] / values[0]).toFixed(2)}` : "";
  const shown = values.map((v) => `${v.toFixed(0)} ${unit}`.padStart(12)).join(" ");
  console.log(`${name.padEnd(64)} ${shown} ${ratio.padStart(7)}   ${wanted}`);
}
if (commit) rmSync(folders[0], { recursive: true, force: true });
