// Programs that run trials: the scripts that the page gives out, run as they are, against the built application.
import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { startBroker } from "../src/cli/rig/broker";
import { StandIn } from "../src/cli/rig/stand-in";
import { rigNamed } from "../src/core/operator";
import { axe, expect, importStudy, press, saved, stored, test, visit, WORKED_OUT } from "./help";

const folder = mkdtempSync(join(tmpdir(), "trialmoor-programs-"));

const study = (n: number) => ({
  title: "Peat dryer",
  factors: [
    { id: "a", name: "Air inlet", unit: "°C", kind: "continuous", low: 0, high: 1000 },
    { id: "b", name: "Fan", kind: "continuous", low: 0, high: 10 },
  ],
  responses: [{ id: "y", name: "Moisture" }, { id: "z" }],
  waves: [{ id: "w1", name: "Wave 1" }],
  trials: Array.from({ length: n }, (_, i) => ({ id: `t${i + 1}`, wave: "w1", settings: { a: i, b: i % 7 } })),
});
/** What each trial must hold when a program has run it. */
const sums = (n: number) => Array.from({ length: n }, (_, i) => ({ y: 10 * i + (i % 7), z: i % 7 }));

/** The script that the page shows, in one language. */
async function script(page: Page, language: string): Promise<string> {
  await page.getByRole("button", { name: "By a program or rig" }).click();
  await page.getByRole("radiogroup", { name: "Language of the script" }).getByText(language, { exact: true }).click();
  const text = (await page.getByTestId("script").textContent()) ?? "";
  await page.keyboard.press("Escape");
  return text;
}
const start = (command: string, args: string[], env = {}): ChildProcess =>
  spawn(command, args, { cwd: folder, env: { ...process.env, ...env }, stdio: "pipe" });
async function ended(child: ChildProcess): Promise<{ code: number | null; said: string }> {
  let said = "";
  for (const stream of [child.stdout, child.stderr]) stream?.on("data", (text) => (said += text));
  const code = await new Promise<number | null>((resolve) => child.on("close", resolve));
  return { code, said };
}

const PROGRAMS = {
  Shell(text: string) {
    writeFileSync(
      join(folder, "sum"),
      `set -- $(sed 's/.*"settings":{"a":\\([0-9]*\\),"b":\\([0-9]*\\)}.*/\\1 \\2/'); a=$1; b=$2
      if [ $a = 2 ]; then echo "warming up" >&2; echo "flame \\"out\\" at $a" >&2; exit 3; fi
      if [ $a = 3 ]; then echo "y=nan"; echo "z=1"; exit 0; fi
      echo y=$((10 * a + b)); echo z=$b\n`,
    );
    writeFileSync(join(folder, "run.sh"), text);
    return start("sh", ["run.sh"], { PROGRAM: "sh ./sum" });
  },
  Python(text: string) {
    const body = `if settings["a"] == 2: raise ArithmeticError('flame "out" at 2')
    if settings["a"] == 3: return {"y": "nan", "z": 1}
    return {"y": 10 * settings["a"] + settings["b"], "z": settings["b"]}`;
    writeFileSync(join(folder, "run.py"), text.replace(/raise NotImplementedError\(.*\)/, body));
    return start("python3", ["run.py"]);
  },
  JavaScript(text: string) {
    const body = `if (settings.a === 2) throw new RangeError('flame "out" at 2');
    if (settings.a === 3) return { y: "nan", z: 1 };
    return { y: 10 * settings.a + settings.b, z: settings.b };`;
    writeFileSync(join(folder, "run.mjs"), text.replace(/throw new Unfinished\(.*\);/, body));
    return start(process.execPath, ["run.mjs"]);
  },
};

for (const [language, program] of Object.entries(PROGRAMS))
  test(`the script in ${language} runs what waits; failures keep their last words`, async ({ page }) => {
    const id = await importStudy(page, study(8));
    await visit(page, id, "trials");
    const { code, said } = await ended(program(await script(page, language)));
    expect(said).toContain("Nothing is left to run.");
    expect(code).toBe(0);
    const { trials } = (await stored(page, id)).study;
    const expected = sums(8);
    for (const [i, t] of trials.entries()) {
      if (i !== 2 && i !== 3) expect(t).toMatchObject({ state: "done", results: expected[i] });
      else expect([t.state, t.results]).toEqual(["failed", {}]);
    }
    expect(trials.map((t) => (t as { why?: string }).why ?? "")[2]).toContain('flame "out" at 2');
    expect(trials.map((t) => (t as { why?: string }).why ?? "")[3]).toMatch(/Moisture|y/);
    // They fall into the ledger by themselves.
    await expect(page.getByTestId("ledger")).toContainText("failed");
    await expect(page.getByRole("gridcell", { name: "44", exact: true })).toBeVisible();
  });

test("a script that is not filled in enters nothing and gives its trial back", async ({ page }) => {
  const id = await importStudy(page, study(2));
  await visit(page, id, "trials");
  writeFileSync(join(folder, "raw.py"), await script(page, "Python"));
  const { code, said } = await ended(start("python3", ["raw.py"]));
  expect(code).not.toBe(0);
  expect(said).toContain("Put your simulation here.");
  expect((await stored(page, id)).study.trials.map((t) => t.state)).toEqual(["planned", "planned"]);
  const { lent } = await (await page.request.get(`/api/studies/${id}/next`)).json();
  expect(lent).toEqual([]);
});

test("programs at work are seen, no more at once than asked; stopped and let go on; the ledger stays in use", async ({
  page,
}) => {
  const id = await importStudy(page, study(24));
  await visit(page, id, "trials");
  await page.getByRole("button", { name: "By a program or rig" }).click();
  await page.getByRole("spinbutton", { name: "At once" }).fill("2");
  await page.getByRole("spinbutton", { name: "At once" }).press("Enter");
  await page.keyboard.press("Escape");
  const slow = (await script(page, "JavaScript")).replace(
    /throw new Unfinished\(.*\);/,
    // A few trials each, then no more until somebody has stopped them, however long that takes on a busy machine.
    `await wait(0.4);
    for (globalThis.ran = (globalThis.ran ?? 0) + 1; globalThis.ran > 3 && !existsSync("on"); ) await wait(0.05);
    return { y: 10 * settings.a + settings.b, z: settings.b };`,
  );
  writeFileSync(join(folder, "slow.mjs"), slow.replace(/^import/m, 'import { existsSync } from "node:fs";\nimport'));
  const running = [1, 2, 3].map(() => start(process.execPath, ["slow.mjs"]));
  const ends = running.map(ended);
  const bar = page.getByRole("status", { name: "Programs at work" });
  await expect(bar).toContainText(/trial \d+ by/, { timeout: WORKED_OUT });
  await expect(bar).toContainText(/a minute, about/, { timeout: WORKED_OUT });
  const { lent } = await (await page.request.get(`/api/studies/${id}/next`)).json();
  expect(lent.length).toBeLessThanOrEqual(2);
  // A result typed meanwhile is saved beside what the programs enter.
  await page.getByTestId("ledger").focus();
  await page.keyboard.press("Control+End");
  await page.keyboard.type("77");
  await page.keyboard.press("Enter");
  await saved(page);
  await bar.getByRole("button", { name: "Stop" }).click();
  await expect(bar).toContainText("stopped");
  writeFileSync(join(folder, "on"), "");
  for (const end of await Promise.all(ends)) expect(end.code).toBe(0);
  const halfway = (await stored(page, id)).study.trials.filter((t) => t.state === "done").length;
  expect(halfway).toBeLessThan(24);
  await bar.getByRole("button", { name: "Let them go on" }).click();
  const { code } = await ended(start(process.execPath, ["slow.mjs"]));
  expect(code).toBe(0);
  const { trials } = (await stored(page, id)).study;
  expect(trials.slice(0, 23).map((t) => t.results)).toEqual(sums(23));
  expect(trials[23].results).toEqual({ y: 77 });
  await page.getByRole("button", { name: "By a program or rig" }).click();
  await axe(page);
});

test("a trial that a program holds can be taken back", async ({ page, allowed }) => {
  allowed.statuses.push(409);
  const id = await importStudy(page, study(3));
  const lease = await (await page.request.post(`/api/studies/${id}/next`, { data: { holder: "node 3" } })).json();
  await visit(page, id, "trials");
  await page.getByRole("button", { name: "By a program or rig" }).click();
  await page.getByRole("button", { name: "Take trial 1 back" }).click();
  await expect(page.getByRole("dialog")).not.toContainText("node 3");
  const late = await page.request.post(`/api/studies/${id}/next/${lease.lease}/results`, {
    data: { results: { y: 1, z: 2 } },
  });
  expect([late.status(), (await late.json()).code]).toEqual([409, "lease-over"]);
});

test("over HTTP: what a lease asks, what it takes and what it refuses", async ({ page, allowed }) => {
  allowed.statuses.push(400, 404, 409, 415, 422);
  const id = await importStudy(page, study(2));
  const next = `/api/studies/${id}/next`;
  const lent = await page.request.post(next, { data: { holder: "sim" } });
  expect(lent.status()).toBe(200);
  const lease = await lent.json();
  expect(lease).toMatchObject({ trial: "t1", order: 1, settings: { a: 0, b: 0 }, coded: { a: -1, b: -1 } });
  expect(Date.parse(lease.until) - Date.now()).toBeGreaterThan(590_000);
  const send = (data: unknown, key = "k1", type?: string) =>
    page.request.post(`${next}/${lease.lease}/results`, {
      data: data as object,
      headers: { "idempotency-key": key, ...(type ? { "content-type": type } : {}) },
    });
  for (const [body, type, code] of [
    [{ results: { y: 1 } }, undefined, "program-answer"],
    [{ results: { y: "many", z: 1 } }, undefined, "bad-shape"],
    ["y=1\nz=2\nq=3", "text/plain", "program-answer"],
    ["", "text/plain", "program-answer"],
  ] as const) {
    const refused = await send(body, "k0", type);
    expect([refused.status(), (await refused.json()).code]).toEqual([422, code]);
  }
  const taken = await send({ results: { y: 1, z: 2 }, asRun: { b: 1 }, note: "fan stuck" });
  expect([taken.status(), (await taken.json()).trial]).toMatchObject([
    200,
    { state: "done", results: { y: 1, z: 2 }, asRun: { b: 1 }, note: "fan stuck" },
  ]);
  expect((await send({ results: { y: 1, z: 2 }, asRun: { b: 1 }, note: "fan stuck" })).status()).toBe(200);
  expect([
    (await send({ results: { y: 3, z: 2 } })).status(),
    (await send({ results: { y: 3, z: 2 } }, "k9")).status(),
  ]).toEqual([422, 409]);
  const second = await (await page.request.post(next, { data: { holder: "sim", seconds: 5 } })).json();
  expect(second.order).toBe(2);
  const none = await page.request.post(next, { data: { holder: "sim" } });
  expect([none.status(), Number(none.headers()["retry-after"])]).toEqual([204, expect.any(Number)]);
  const renewed = await page.request.post(`${next}/${second.lease}/renew`);
  expect(Date.parse((await renewed.json()).until)).toBeGreaterThanOrEqual(Date.parse(second.until));
  const failed = await page.request.post(`${next}/${second.lease}/fail`, { data: { reason: "no flame" } });
  expect((await failed.json()).trial).toMatchObject({ state: "failed", why: "no flame" });
  const nothing = await page.request.post(next, { data: { holder: "sim" } });
  expect([nothing.status(), nothing.headers()["retry-after"]]).toEqual([204, undefined]);
  expect((await page.request.post(next, { data: {} })).status()).toBe(422);
  expect((await page.request.post(`${next}/${second.lease}/burn`)).status()).toBe(404);
  expect((await page.request.post("/api/studies/none/next", { data: { holder: "x" } })).status()).toBe(404);
});

test("a rig makes itself known, is watched, rests, goes on and stops; its drift is said while it runs", async ({
  page,
}, { retry }) => {
  const broker = await startBroker(0);
  writeFileSync(
    join(String(process.env.TRIALMOOR_E2E_DATA), "rigs.json"),
    JSON.stringify({ broker: `mqtt://127.0.0.1:${broker.port}` }),
  );
  const wool = rigNamed("wool-line");
  const rig = new StandIn(`east${retry}`, wool, {
    broker: `mqtt://127.0.0.1:${broker.port}`,
    seconds: 0.15,
    drift: 0.05,
  });
  try {
    const middle = wool.knobs.map((k): [string, number | string] => [
      k.id,
      k.range ? (k.range[0] + k.range[1]) / 2 : (k.levels ?? [])[0],
    ]);
    const id = await importStudy(page, {
      title: "East line",
      factors: wool.knobs.map((k) =>
        k.range
          ? { id: k.id, name: k.name, kind: "continuous", low: k.range[0], high: k.range[1] }
          : { id: k.id, name: k.name, kind: "categorical", levels: k.levels },
      ),
      responses: wool.gauges.map((g) => ({ id: g.id, name: g.name, ...(g.id === "grease" ? { noise: 0.022 } : {}) })),
      waves: [{ id: "w1" }],
      trials: Array.from({ length: 60 }, (_, i) => ({
        id: `t${i + 1}`,
        wave: "w1",
        kind: "centre",
        settings: Object.fromEntries(middle),
      })),
    });
    await visit(page, id, "trials");
    await page.getByRole("button", { name: "By a program or rig" }).click();
    await press(page, "What runs the trials", "A rig");
    const dialog = page.getByRole("dialog");
    const run = dialog.getByRole("button", { name: "Run these: Wool line (stand-in)" });
    await expect(run).toBeVisible({ timeout: WORKED_OUT });
    await axe(page);
    await run.click();
    await expect(dialog).toContainText(/trial \d+/, { timeout: WORKED_OUT });
    await dialog.getByRole("button", { name: "Rest after this trial: Wool line (stand-in)" }).click();
    await expect(dialog).toContainText("rests");
    await dialog.getByRole("button", { name: "Go on: Wool line (stand-in)" }).click();
    await page.keyboard.press("Escape");
    const bar = page.getByRole("status", { name: "Programs at work" });
    await expect(bar).toContainText("Wool line (stand-in)");
    // It gains 0.05 a trial: the last three centres climb.
    const drift = page.locator('[data-reading="centre-drift-grease"]');
    await expect(drift).toContainText(/centres of Residual grease climb by/, { timeout: WORKED_OUT });
    await drift.getByRole("button", { name: "Stop programs and rigs" }).click();
    await expect(bar).toContainText("stopped");
    await page.getByRole("button", { name: "By a program or rig" }).click();
    await dialog.getByRole("button", { name: "Stop: Wool line (stand-in)" }).click();
    await expect(run).toBeVisible();
    const { trials } = (await stored(page, id)).study;
    const done = trials.filter((t) => t.state === "done");
    expect(done.length).toBeGreaterThan(2);
    expect(done.length).toBeLessThan(60);
    expect(rig.ran).toHaveLength(done.length);
  } finally {
    await rig.close();
    await broker.close();
    rmSync(join(String(process.env.TRIALMOOR_E2E_DATA), "rigs.json"));
  }
});
