// Speed in the browser, from the production build: first load, toggling a term, opening a large study.
import { spawn } from "node:child_process";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";

const port = 4293;
const base = `http://127.0.0.1:${port}`;
const server = spawn(process.execPath, ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port)], {
  env: { ...process.env, TRIALMOOR_DATA: mkdtempSync(join(tmpdir(), "trialmoor-bench-")) },
  stdio: "ignore",
});
const row = (name, value, wanted) => console.log(`${name.padEnd(58)} ${value.padStart(14)}   ${wanted}`);
const median = (v) => [...v].sort((a, b) => a - b)[Math.floor(v.length / 2)];
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

  const model = await make({ factors, responses: [{ id: "y" }], waves: [{ id: "w" }], trials: trials(100), models: [{ response: "y", terms }] });
  let bytes = 0;
  const cdp = await page.context().newCDPSession(page);
  await cdp.send("Network.enable");
  const scripts = new Set();
  cdp.on("Network.responseReceived", (e) => e.type === "Script" && scripts.add(e.requestId));
  cdp.on("Network.loadingFinished", (e) => {
    if (scripts.has(e.requestId)) bytes += e.encodedDataLength;
  });
  const open = async (id, station) => {
    const start = performance.now();
    await page.goto(`${base}/studies/${id}/${station}`);
    await page.locator('[data-ready="yes"]').waitFor();
    return performance.now() - start;
  };
  // A browser that runs and has never seen the application: its own start is not ours to time.
  await page.goto("about:blank");
  await (await browser.newPage()).goto(`${base}/api/health`);
  const cold = await open(model, "model");
  row("first load of Model to interactive, cold cache", `${cold.toFixed(0)} ms`, "≤ 1,000 ms");
  row("first-load JavaScript, compressed", `${(bytes / 1024).toFixed(0)} kB`, "≤ 450 kB");
  const toggles = await page.evaluate(async () => {
    const ladder = document.querySelector('[data-testid="ladder"]');
    ladder.focus();
    const times = [];
    for (let i = 0; i < 20; i++) {
      const start = performance.now();
      ladder.dispatchEvent(new KeyboardEvent("keydown", { key: " ", bubbles: true, cancelable: true, shiftKey: true }));
      await new Promise((r) => requestAnimationFrame(() => setTimeout(r, 0)));
      const painted = performance.now() - start;
      // The map follows in the frame after: it is there once no frame changes it any more.
      const map = document.querySelector('[aria-label^="y over"]');
      let before = "";
      while (map && before !== map.innerHTML) {
        before = map.innerHTML;
        await new Promise((r) => requestAnimationFrame(() => setTimeout(r, 0)));
      }
      times.push([painted, performance.now() - start]);
      // A person looks before the next press; meanwhile checks and readings are worked out aside.
      await new Promise((r) => setTimeout(r, 1000));
    }
    return times;
  });
  row("a term in or out to the next paint, 100 × 30", `${median(toggles.map((t) => t[0])).toFixed(0)} ms`, "≤ 50 ms");
  row("… to the last repaint of the map, with the frames it took to see", `${median(toggles.map((t) => t[1])).toFixed(0)} ms`, "");
  const large = await make({ factors, responses: [{ id: "y" }], waves: [{ id: "w" }], trials: trials(1000) });
  row("opening a study with 1,000 trials", `${(await open(large, "trials")).toFixed(0)} ms`, "≤ 1,000 ms");
  await browser.close();
} finally {
  server.kill();
}
