import { spawnSync } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { request as rawRequest } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { APIResponse } from "@playwright/test";
import { ownServer } from "../src/server/testing/own-server";
import { DatabaseFile } from "../src/server/testing/sqlite";
import { expect, importStudy, saved, stored, test, visit, WORKED_OUT } from "./help";

interface Raw {
  status: number;
  headers: Record<string, string | string[] | undefined>;
  body: string;
}
/** A request as it is written, with any host and any address. */
function raw(
  base: string,
  method: string,
  path: string,
  headers: Record<string, string> = {},
  body?: string,
): Promise<Raw> {
  const { hostname, port } = new URL(base);
  return new Promise((resolve, reject) => {
    const sent = rawRequest({ hostname, port, method, path, headers }, (answer) => {
      let text = "";
      answer.setEncoding("utf8");
      answer.on("data", (chunk: string) => {
        text += chunk;
      });
      answer.on("end", () => resolve({ status: answer.statusCode ?? 0, headers: answer.headers, body: text }));
    });
    sent.on("error", reject);
    sent.end(body);
  });
}
const json = { "content-type": "application/json" };
const factors = (n: number) =>
  Array.from({ length: n }, (_, i) => ({ id: `f${i}`, kind: "continuous", low: -1, high: 1 }));

test.describe("strangers", () => {
  test("every answer carries the policy: pages, errors, files and refusals", async ({ baseURL, page }) => {
    const id = await importStudy(page, { factors: factors(2) });
    const nonces = new Set<string>();
    for (const path of [
      "/",
      `/studies/${id}/plan`,
      "/nothing",
      "/studies/none/plan",
      "/api/health",
      "/api/nothing",
      "/%ff",
      "/icon.svg",
    ]) {
      const { headers, status, body } = await raw(baseURL as string, "GET", path);
      const policy = String(headers["content-security-policy"]);
      expect(policy, path).toContain("default-src 'none'");
      expect(policy, path).toContain("frame-ancestors 'none'");
      expect([headers["x-content-type-options"], headers["referrer-policy"]], path).toEqual(["nosniff", "no-referrer"]);
      expect(headers["x-powered-by"], path).toBeUndefined();
      expect(status, path).toBeLessThan(500);
      const nonce = /'nonce-([^']+)'/.exec(policy)?.[1] as string;
      nonces.add(nonce);
      // Scripts and style elements of a page carry the nonce of that very answer.
      for (const [, attributes] of body.matchAll(/<(?:script|style)\b([^>]*)>/g))
        expect(attributes, path).toContain(`nonce="${nonce}"`);
    }
    expect(nonces.size).toBe(8);
  });

  test("another host is not answered, and foreign pages cannot write", async ({ baseURL, page }) => {
    const base = baseURL as string;
    const id = await importStudy(page, { title: "Ours", factors: factors(2) });
    expect((await raw(base, "GET", "/api/studies", { host: "evil.test" })).status).toBe(421);
    for (const act of ["duplicate", "restore"]) {
      const form = { "content-type": "application/x-www-form-urlencoded", origin: "http://evil.test" };
      expect((await raw(base, "POST", `/api/studies/${id}/${act}`, form, "a=1")).status).toBe(403);
      expect((await raw(base, "POST", `/api/studies/${id}/${act}`, { "sec-fetch-site": "cross-site" })).status).toBe(
        403,
      );
      expect(
        (await raw(base, "POST", `/api/studies/${id}/${act}`, { "content-type": "text/plain" }, "{}")).status,
      ).toBe(415);
    }
    const foreign = await raw(
      base,
      "POST",
      "/api/studies",
      { ...json, origin: "http://localhost:1" },
      '{"title":"Theirs"}',
    );
    expect(foreign.status).toBe(403);
    expect(JSON.parse(foreign.body)).toMatchObject({ code: "foreign-page", status: 403 });
    const titles = ((await (await page.request.get("/api/studies")).json()) as { title: string }[]).map((s) => s.title);
    expect(titles.filter((t) => t.startsWith("Ours"))).toEqual(["Ours"]);
    expect(titles).not.toContain("Theirs");
  });

  test("an upgrade is not waited for, answers are not kept, and names that objects answer to are refused", async ({
    baseURL,
    page,
  }) => {
    const base = baseURL as string;
    const { hostname, port } = new URL(base);
    const closed = await new Promise<string>((resolve) => {
      const upgrade = { connection: "Upgrade", upgrade: "websocket" };
      rawRequest({ hostname, port, path: "/api/health", headers: upgrade })
        .on("upgrade", () => resolve("upgraded"))
        .on("error", () => resolve("closed"))
        .on("close", () => resolve("closed"))
        .end();
    });
    expect(closed).toBe("closed");
    const id = await importStudy(page, {
      factors: factors(2),
      responses: [{ id: "y" }],
      waves: [{ id: "w" }],
      trials: [{ id: "t1", wave: "w", settings: { f0: 0, f1: 0 } }],
    });
    for (const path of [
      "/api/studies",
      `/api/studies/${id}`,
      `/api/studies/${id}/history`,
      "/api/none",
      `/api/studies/${id}/export`,
    ])
      expect((await raw(base, "GET", path)).headers["cache-control"], path).toContain("no-store");
    const patch = (path: string[]): Promise<Raw> =>
      raw(
        base,
        "PATCH",
        `/api/studies/${id}`,
        json,
        JSON.stringify({ revision: 1, edits: [{ path, from: null, to: 1 }] }),
      );
    for (const path of [
      ["__proto__", "x"],
      ["constructor"],
      ["trials", "t1", "__proto__", "x"],
      ["trials", "constructor"],
    ]) {
      const { status, body } = await patch(path);
      expect([path, status]).toEqual([path, 422]);
      expect(JSON.parse(body).detail, body).toMatch(/\.$/);
    }
    const results = await raw(base, "POST", `/api/studies/${id}/results`, json, '{"results":{"t1":{"__proto__":5}}}');
    expect([results.status, JSON.parse(results.body).code]).toEqual([400, "odd-key"]);
    const named = await raw(base, "POST", "/api/studies", json, '{"title":"half \\ud800"}');
    expect([named.status, JSON.parse(named.body).code]).toEqual([400, "odd-text"]);
    expect((await stored(page, id)).revision).toBe(1);
  });

  test("a body is counted as it comes, and what is deep or odd is refused", async ({ baseURL }) => {
    const base = baseURL as string;
    const { hostname, port } = new URL(base);
    const path = "/api/studies/import";
    // By its own word: answered before anything of it comes.
    const said = await new Promise<number>((resolve, reject) => {
      const announced = { ...json, "content-length": "30000000" };
      const request = rawRequest({ hostname, port, method: "POST", path, headers: announced }, (answer) => {
        answer.resume();
        resolve(answer.statusCode ?? 0);
        request.destroy();
      });
      request.on("error", reject);
      request.flushHeaders();
    });
    expect(said).toBe(413);
    let sent = 0;
    const ended = await new Promise<number | string>((resolve) => {
      const chunked = { ...json, "transfer-encoding": "chunked" };
      const request = rawRequest({ hostname, port, method: "POST", path, headers: chunked }, (answer) => {
        answer.resume();
        resolve(answer.statusCode ?? 0);
        request.destroy();
      });
      // Who writes on may find the connection closed before the answer is read.
      request.on("error", (error: { code?: string }) => resolve(error.code ?? ""));
      const chunk = "a".repeat(1_000_000);
      const more = (): void => {
        if (request.destroyed || sent >= 300) return;
        sent++;
        request.write(chunk, () => setImmediate(more));
      };
      more();
    });
    expect([413, "EPIPE", "ECONNRESET"]).toContain(ended);
    // 300 MB were meant; what was taken is the limit and what the sockets hold.
    expect(sent).toBeLessThan(120);
    const deep = await raw(base, "POST", "/api/studies/import", json, "[".repeat(8000) + "]".repeat(8000));
    expect([deep.status, JSON.parse(deep.body).code]).toEqual([400, "too-deep"]);
    for (const verb of ["constructor", "toString", "valueOf", "__proto__"])
      expect((await raw(base, "POST", `/api/studies/x/${verb}`, json, "{}")).status, verb).toBe(404);
    for (const path of ["/api/jobs/%00", "/api/studies/%00", "/%E0%A4%A", "/studies/%ff"])
      expect((await raw(base, "GET", path)).status, path).toBe(400);
  });
});

test.describe("one request never stops another", () => {
  const long = { family: "optimal", trials: 60, terms: "quadratic", starts: 100_000 };

  test("what used to hang is answered or refused", async ({ page }) => {
    const trials = Array.from({ length: 16 }, (_, i) => ({
      id: `t${i}`,
      wave: "w",
      state: "done",
      settings: Object.fromEntries(factors(4).map((f, j) => [f.id, (i >> j) & 1 ? 1 : -1])),
      results: { y: i },
    }));
    const id = await importStudy(page, {
      factors: factors(4),
      responses: [{ id: "y", noise: 1e-9, smallest: 1 }],
      waves: [{ id: "w" }],
      trials,
    });
    const asks: [string, object, number, RegExp][] = [
      ["power", { effect: 2, noise: 1, replicates: 1e9 }, 422, /at most 5000/],
      ["power", { effect: 2, noise: 1e-9, replicates: 3 }, 200, /"power":1,/],
      ["appraise", {}, 200, /"power":/],
      ["follow", { kind: "axial", centre: 1e7 }, 422, /at most 5000/],
      ["plan", { family: "factorial", replicates: 6000 }, 422, /at most 5000/],
      ["plan", { family: "factorial", replicates: 5000 }, 422, /the most is 5000/],
    ];
    for (const [verb, data, status, said] of asks) {
      const answer = await page.request.post(`/api/studies/${id}/${verb}`, { data });
      expect(answer.status(), `${verb} ${JSON.stringify(data)}`).toBe(status);
      expect(await answer.text()).toMatch(said);
    }
  });

  test("with twenty long searches asked, others go on; each says that it was stopped as it is", async ({ page }) => {
    const id = await importStudy(page, { factors: factors(6), responses: [{ id: "y" }] });
    const jobs: string[] = [];
    const statuses: number[] = [];
    for (let i = 0; i < 20; i++) {
      const asked = await page.request.post(`/api/studies/${id}/plan`, { data: { ...long, background: true } });
      statuses.push(asked.status());
      if (asked.ok()) jobs.push(((await asked.json()) as { id: string }).id);
      else expect(asked.headers()["retry-after"]).toBe("5");
    }
    expect(statuses).toEqual([...Array(18).fill(202), 429, 429]);
    for (let i = 0; i < 10; i++)
      for (const path of ["/api/health", `/api/studies/${id}`])
        expect((await page.request.get(path)).status()).toBe(200);
    const light = await page.request.post(`/api/studies/${id}/plan`, { data: { family: "factorial" } });
    expect(light.status()).toBe(200);
    const state = async (asked: Promise<APIResponse>): Promise<string> =>
      ((await (await asked).json()) as { state: string }).state;
    // None of them had to end for that.
    for (const job of jobs) expect(["running", "waiting"]).toContain(await state(page.request.get(`/api/jobs/${job}`)));
    for (const job of jobs) expect(await state(page.request.delete(`/api/jobs/${job}`))).toBe("stopped");
  });

  test("a search dies with the client that asked for it", async ({ baseURL, page }) => {
    const id = await importStudy(page, { factors: factors(6), responses: [{ id: "y" }] });
    const plan = `/api/studies/${id}/plan`;
    const client = new AbortController();
    // One more than may run and wait: it is refused, and then the others are all there.
    const asked = Array.from({ length: 19 }, async () => {
      const { status } = await fetch(baseURL + plan, {
        method: "POST",
        headers: json,
        body: JSON.stringify(long),
        signal: client.signal,
      });
      return status;
    });
    expect(await Promise.race(asked)).toBe(429);
    client.abort();
    await Promise.allSettled(asked);
    const another = async (): Promise<number> =>
      (await page.request.post(plan, { data: { ...long, starts: 1 } })).status();
    // Left to themselves they would hold their places for half a minute.
    await expect.poll(another, { timeout: 25_000 }).toBe(200);
  });
});

test("five thousand trials of twenty responses come in, once, while others go on", async ({ page }) => {
  const big = {
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
  };
  // Written out beforehand: the waiting measured is the server's, not that of this process writing.
  const body = Buffer.from(JSON.stringify(big));
  const send = async (key: string): Promise<string> => {
    const answer = await page.request.post("/api/studies/import", {
      data: body,
      headers: { "content-type": "application/json", "idempotency-key": key },
    });
    return ((await answer.json()) as { id: string }[])[0].id;
  };
  let over = false;
  let answered = 0;
  const asking = (async () => {
    while (!over) if ((await page.request.get("/api/health")).ok()) answered++;
  })();
  const first = await send("large-1");
  over = true;
  await asking;
  expect(answered).toBeGreaterThan(0);
  // Sent again it is the same study; another body under the key is refused.
  expect(await send("large-1")).toBe(first);
  const other = await page.request.post("/api/studies/import", {
    data: { ...big, title: "Other", trials: [] },
    headers: { "idempotency-key": "large-1" },
  });
  expect([other.status(), ((await other.json()) as { code: string }).code]).toEqual([422, "key-reused"]);
  const kept = (await (await page.request.get(`/api/studies/${first}`)).json()) as { study: typeof big };
  expect(kept.study.trials[4321]).toMatchObject(big.trials[4321]);
  const titles = ((await (await page.request.get("/api/studies")).json()) as { title: string }[]).map((s) => s.title);
  expect(titles.filter((t) => t === "Large")).toHaveLength(1);
});

/** Address of a server that a test starts on a folder of its own. */
const OWN = "http://127.0.0.1:4295";
const serve = async (folder: string): Promise<() => Promise<void>> => (await ownServer(4295, folder)).stop;

test("a disk that fills up: health and writes say so, nothing is lost, and it recovers", async () => {
  const folder = mkdtempSync(join(tmpdir(), "trialmoor-disk-"));
  const mount = (...args: string[]): boolean => spawnSync("mount", args).status === 0;
  test.skip(!mount("-t", "tmpfs", "-o", "size=6m", "tmpfs", folder), "nothing may be mounted here");
  const stop = await serve(folder);
  const health = async (): Promise<[number, string]> => {
    const answer = await fetch(`${OWN}/api/health`);
    const body = (await answer.json()) as { status: string; code?: string };
    return [answer.status, body.code ?? body.status];
  };
  const write = async (): Promise<[number, string]> => {
    const answer = await fetch(`${OWN}/api/studies`, { method: "POST", headers: json, body: '{"title":"Late"}' });
    const body = (await answer.json()) as { code?: string };
    return [answer.status, body.code ?? ""];
  };
  const titles = async (): Promise<string[]> =>
    ((await (await fetch(`${OWN}/api/studies`)).json()) as { title: string }[]).map((s) => s.title);
  try {
    expect(await health()).toEqual([200, "ok"]);
    const before = await titles();
    const filler = join(folder, "filler");
    spawnSync("dd", ["if=/dev/zero", `of=${filler}`, "bs=4k"]);
    // What the disk still takes is written first.
    await expect.poll(health).toEqual([507, "disk-full"]);
    expect(await write()).toEqual([507, "disk-full"]);
    expect(await titles()).toEqual(before);
    rmSync(filler);
    // What was found a moment ago stands for a second.
    await expect.poll(health).toEqual([200, "ok"]);
    expect((await write())[0]).toBe(201);
    expect(await titles()).toEqual(["Late", ...before]);
  } finally {
    await stop();
    spawnSync("umount", [folder]);
    rmSync(folder, { recursive: true, force: true });
  }
});

test("a study with a damaged row is listed as what it is, its raw file can be saved, and the others work", async ({
  page,
}) => {
  const folder = mkdtempSync(join(tmpdir(), "trialmoor-damaged-"));
  const start = (): Promise<() => Promise<void>> => serve(folder);
  let stop = await start();
  const post = async (path: string, body: object): Promise<{ id: string }[]> =>
    (await (await fetch(OWN + path, { method: "POST", headers: json, body: JSON.stringify(body) })).json()) as {
      id: string;
    }[];
  const small = (title: string) => ({
    format: "trialmoor-study",
    version: 1,
    title,
    factors: factors(2),
    waves: [{ id: "w" }],
    trials: [{ id: "t1", wave: "w", settings: { f0: 0, f1: 0 } }],
  });
  const made = await post("/api/studies/import", {
    format: "trialmoor-backup",
    version: 1,
    at: "",
    studies: Array.from({ length: 200 }, (_, i) => small(`Study ${i}`)),
  });
  await stop();
  const db = new DatabaseFile(join(folder, "trialmoor.sqlite"));
  await db.run(`UPDATE trials SET document = '{"id": "t1", ' WHERE studyId = '${made[7].id}'`);
  // Whole as JSON, but no study: found when it is opened.
  await db.run(`UPDATE trials SET document = '{"id": "t1", "wave": 3}' WHERE studyId = '${made[8].id}'`);
  await db.close();
  stop = await start();
  try {
    const listed = (await (await fetch(`${OWN}/api/studies`)).json()) as { id: string; damage: string | null }[];
    expect(listed.filter((s) => s.damage !== null)).toMatchObject([
      { id: made[7].id, damage: "a row of it is damaged" },
    ]);
    let whole = 0;
    for (const { id } of made) if ((await fetch(`${OWN}/api/studies/${id}`)).ok) whole++;
    expect(whole).toBe(198);
    const opened = await fetch(`${OWN}/api/studies/${made[8].id}`);
    expect(opened.status).toBe(422);
    expect(await opened.json()).toMatchObject({ code: "damaged-study" });
    const rawFile = (await (await fetch(`${OWN}/api/studies/${made[7].id}/export?format=raw`)).json()) as {
      trials: { document: string }[];
    };
    expect(rawFile.trials[0].document).toBe('{"id": "t1", ');
    await page.goto(`${OWN}/?all`);
    const row = page.locator("article", { hasText: "Study 7" }).filter({ hasText: "cannot be read" });
    await expect(row).toContainText("a row of it is damaged");
    await expect(row.getByRole("link", { name: "Save raw file" })).toBeVisible();
    // All of them, beside the studies that are shipped.
    expect(listed.length).toBeGreaterThan(200);
    await expect(page.locator("article")).toHaveCount(listed.length);
    await page.goto(`${OWN}/studies/${made[8].id}/plan`);
    await expect(page.getByRole("heading", { name: "This study cannot be opened" })).toBeVisible();
    await page.goto(`${OWN}/studies/${made[9].id}/trials`);
    await expect(page.locator('[data-ready="yes"]')).toBeVisible();
    // A backup holds every row as it stands, those that cannot be read too.
    expect((await fetch(`${OWN}/api/backups`, { method: "POST" })).status).toBe(201);
    expect(await (await fetch(`${OWN}/api/backups`)).json()).toMatchObject([{ studies: listed.length }]);
    // A page that the server cannot draw keeps to the policy too; one that stands open asks for its history still.
    await page.goto("about:blank");
    const broken = new DatabaseFile(join(folder, "trialmoor.sqlite"));
    await broken.run("ALTER TABLE studies RENAME TO elsewhere");
    await broken.close();
    const other = await page.context().newPage();
    const violations: string[] = [];
    other.on("console", (m) => {
      if (m.text().includes("Content Security Policy")) violations.push(m.text());
    });
    const drawn = await other.goto(`${OWN}/studies/${made[10].id}/trials`);
    expect(drawn?.headers()["content-security-policy"]).toContain("frame-ancestors 'none'");
    await expect(other.getByText("This page could not be drawn")).toBeVisible();
    expect(violations).toEqual([]);
    const failed = await fetch(`${OWN}/api/studies/${made[11].id}`);
    expect([failed.status, ((await failed.json()) as { code: string }).code]).toEqual([500, "server-error"]);
  } finally {
    // What a page still loads is not to find the server gone.
    for (const open of page.context().pages()) await open.goto("about:blank");
    await stop();
    rmSync(folder, { recursive: true, force: true });
  }
});

test("ten thousand trials lent to programs: the ledger stays in use, what is typed there and what comes in both stand", async ({
  page,
}) => {
  const id = await importStudy(page, {
    factors: [
      { id: "a", kind: "continuous", low: 0, high: 20_000 },
      { id: "b", kind: "continuous", low: 0, high: 10 },
    ],
    responses: [{ id: "y" }, { id: "z" }],
    waves: [{ id: "w1" }],
    trials: Array.from({ length: 10_000 }, (_, i) => ({ id: `t${i + 1}`, wave: "w1", settings: { a: i, b: i % 7 } })),
  });
  await visit(page, id, "trials");
  let going = true;
  let ran = 0;
  const program = async (holder: string): Promise<void> => {
    while (going) {
      const { lease, settings } = await (
        await page.request.post(`/api/studies/${id}/next`, { data: { holder } })
      ).json();
      const results = { y: 10 * settings.a + settings.b, z: settings.b };
      const sent = await page.request.post(`/api/studies/${id}/next/${lease}/results`, { data: { results } });
      if (sent.ok()) ran++;
    }
  };
  const programs = ["one", "two"].map(program);
  await expect.poll(() => ran, { timeout: WORKED_OUT }).toBeGreaterThan(20);
  const ledger = page.getByTestId("ledger");
  await ledger.focus();
  await page.keyboard.press("Control+End");
  await page.keyboard.press("Home");
  for (let i = 0; i < 2; i++) await page.keyboard.press("ArrowRight");
  for (let i = 0; i < 5; i++) {
    const before = ran;
    await expect.poll(() => ran, { timeout: WORKED_OUT }).toBeGreaterThan(before + 5);
    await page.keyboard.type(String(i));
    await page.keyboard.press("Shift+Enter");
    await expect(page.locator(`#cell-${9999 - i}-2`)).toHaveText(String(i), { timeout: WORKED_OUT });
  }
  going = false;
  await Promise.all(programs);
  await saved(page);
  const { trials } = (await stored(page, id)).study;
  expect(trials.slice(-5).map((t) => t.results.y)).toEqual([4, 3, 2, 1, 0]);
  const done = trials.slice(0, -5).filter((t) => t.state === "done");
  expect(done).toHaveLength(ran);
  expect(done.every((t, i) => t.results.y === 10 * i + (i % 7))).toBe(true);
  // What came in stands on the page, too.
  await page.keyboard.press("Control+Home");
  await expect(page.locator("#cell-0-2")).toHaveText("0");
  await expect(page.locator("#cell-9-2")).toHaveText("92");
});
