// node bench/load.mjs [MINUTES]: twenty clients at a server of the production build, each on a study of its own or one
// that it shares: reading, entering, fitting, planning. How long entries take, and that nothing fails.
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const MINUTES = Number(process.argv[2] ?? 10);
const CLIENTS = 20;
const SHARED = 5;
const port = 4296;
const base = `http://127.0.0.1:${port}`;
const folder = mkdtempSync(join(tmpdir(), "trialmoor-load-"));
const quantile = (v, q) => [...v].sort((a, b) => a - b)[Math.min(v.length - 1, Math.floor(v.length * q))] ?? Number.NaN;
/** Times and statuses by what was asked. */
const kinds = new Map();

async function ask(kind, method, path, body, headers = {}) {
  const start = performance.now();
  const answer = await fetch(base + path, {
    method,
    headers: { "content-type": "application/json", ...headers },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const text = await answer.text();
  const known = kinds.get(kind) ?? { times: [], statuses: new Map() };
  known.times.push(performance.now() - start);
  known.statuses.set(answer.status, (known.statuses.get(answer.status) ?? 0) + 1);
  kinds.set(kind, known);
  return text ? JSON.parse(text) : undefined;
}

const TRIALS = 200;
const study = (n) => ({
  format: "trialmoor-study",
  version: 1,
  title: `Load ${n}`,
  factors: ["a", "b", "c"].map((id) => ({ id, kind: "continuous", low: -1, high: 1 })),
  responses: [{ id: "y", goal: { aim: "raise", low: 0, high: 10 } }, { id: "z" }],
  waves: [{ id: "w" }],
  trials: Array.from({ length: TRIALS }, (_, i) => ({
    id: `t${i}`,
    wave: "w",
    settings: { a: i % 2 ? 1 : -1, b: i & 2 ? 1 : -1, c: i & 4 ? 1 : -1 },
    results: { z: Math.sin(i) + (i % 2) },
  })),
});

async function client(n, id, until) {
  for (let i = 0; performance.now() < until; i++) {
    const trial = `t${(i * CLIENTS + n) % TRIALS}`;
    const key = { "idempotency-key": `load-${n}-${i}` };
    const now = await ask("read", "GET", `/api/studies/${id}`);
    const was = now.study.trials.find((t) => t.id === trial).results.y ?? null;
    await ask(
      "entry",
      "POST",
      `/api/studies/${id}/trials/${trial}/entries`,
      { cell: "results", of: "y", value: i + n / 100, was },
      key,
    );
    if (i % 5 === n % 5) await ask("fit", "POST", `/api/studies/${id}/fit`, { response: "z", terms: "main" });
    if (i % 20 === n)
      await ask("plan", "POST", `/api/studies/${id}/plan`, {
        family: "optimal",
        trials: 12,
        terms: "main+2fi",
        starts: 4,
      });
    if (i % 7 === n % 7) await ask("list", "GET", "/api/studies");
    await new Promise((r) => setTimeout(r, 200 + 100 * (n % 5)));
  }
}

const server = spawn(process.execPath, ["dist/serve.mjs"], {
  cwd: join(import.meta.dirname, ".."),
  env: { ...process.env, PORT: String(port), NODE_ENV: "production", TRIALMOOR_DATA: folder },
  stdio: "ignore",
});
try {
  for (let i = 0; i < 300 && !(await fetch(`${base}/api/health`).catch(() => undefined))?.ok; i++)
    await new Promise((r) => setTimeout(r, 200));
  const ids = [];
  for (let n = 0; n < CLIENTS / SHARED; n++)
    ids.push((await ask("import", "POST", "/api/studies/import", study(n)))[0].id);
  const until = performance.now() + MINUTES * 60_000;
  await Promise.all(Array.from({ length: CLIENTS }, (_, n) => client(n, ids[n % ids.length], until)));
} finally {
  // One that ended by itself (its port was taken) has no end to wait for.
  if (server.exitCode === null) {
    server.kill();
    await new Promise((done) => server.once("exit", done));
  }
  rmSync(folder, { recursive: true, force: true });
}
for (const [kind, { times, statuses }] of kinds) {
  const told = [...statuses].map(([s, n]) => `${n} × ${s}`).join(", ");
  const at = (q) => `${quantile(times, q).toFixed(0)} ms`.padStart(9);
  console.log(`${kind.padEnd(8)} median ${at(0.5)}, 95 of 100 ${at(0.95)}, longest ${at(1)}   ${told}`);
}
