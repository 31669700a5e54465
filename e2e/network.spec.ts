import { mkdtempSync, readdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { APIRequestContext, Browser, BrowserContext, Page } from "@playwright/test";
import { setPassphrase } from "../src/server/access/passphrase";
import { operations } from "../src/server/operations";
import { certificate } from "../src/server/testing/certificate";
import { type OwnServer, ownServer } from "../src/server/testing/own-server";
import { axe, expect, type StudyJson, test } from "./help";

// A server that is open to a network, over its own certificate: everybody signs in.
const PORT = 4297;
const BASE = `https://localhost:${PORT}`;
const PASSPHRASE = "heather on the lower moor";
const folder = mkdtempSync(join(tmpdir(), "trialmoor-network-"));
let server: OwnServer;
let desk: BrowserContext;
let ours = "";
let theirs = "";

const device = (browser: Browser): Promise<BrowserContext> =>
  browser.newContext({ baseURL: BASE, ignoreHTTPSErrors: true, viewport: { width: 1280, height: 800 } });
const make = async (request: APIRequestContext, title: string): Promise<string> => {
  const made = await request.post("/api/studies/import", {
    data: {
      format: "trialmoor-study",
      version: 1,
      title,
      notes: "what the customer must not hear",
      factors: [{ id: "bowl", name: "Bowl temperature", unit: "°C", kind: "continuous", low: 52, high: 68 }],
      responses: [{ id: "white", name: "Whiteness", goal: { aim: "raise", low: 55, high: 64 } }],
      waves: [{ id: "w", name: "First", purpose: "a secret purpose" }],
      trials: [52, 68, 52, 68].map((bowl, i) => ({ id: `t${i + 1}`, wave: "w", settings: { bowl } })),
      models: [{ response: "white", terms: [["bowl"]] }],
    },
  });
  return ((await made.json()) as { id: string }[])[0].id;
};
const linkFor = async (study: string, name: string): Promise<{ id: string; url: string }> => {
  const made = await desk.request.post(`/api/studies/${study}/keys`, { data: { name } });
  expect(made.status()).toBe(201);
  return (await made.json()) as { id: string; url: string };
};
const keyOf = (url: string): string => new URL(url).hash.slice("#key=".length);
const read = async (study: string): Promise<StudyJson> =>
  (await (await desk.request.get(`/api/studies/${study}`)).json()) as StudyJson;

/** Results that stand, in run order. */
const whites = async (study: string): Promise<unknown[]> =>
  (await read(study)).study.trials.flatMap((t) => (t.results.white === undefined ? [] : [t.results.white]));

test.beforeAll(async ({ browser }) => {
  await setPassphrase(folder, PASSPHRASE);
  const { key, cert } = certificate(join(folder, "tls"), "localhost");
  const tls = { TRIALMOOR_TLS_KEY: key, TRIALMOOR_TLS_CERT: cert };
  server = await ownServer(PORT, folder, { TRIALMOOR_HOST: "0.0.0.0", TRIALMOOR_NAMES: "localhost", ...tls }, BASE);
  desk = await device(browser);
  const signed = await desk.request.post("/api/session", { data: { passphrase: PASSPHRASE, name: "Mirja Holt" } });
  expect(signed.status()).toBe(204);
  [ours, theirs] = [await make(desk.request, "Ours"), await make(desk.request, "Theirs")];
});
test.afterAll(async () => {
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
});

/** Every address of the application, as its folders have them, each with names for what it leaves open. */
function addresses(): string[] {
  const found: string[] = [];
  const look = (path: string, address: string): void => {
    for (const entry of readdirSync(path, { withFileTypes: true })) {
      // A folder in parentheses is none in the address.
      const part = /^\(.*\)$/.test(entry.name) ? "" : `/${entry.name}`;
      if (entry.isDirectory()) look(join(path, entry.name), address + part);
      else if (/^(page\.tsx|route\.ts)$/.test(entry.name)) found.push(address || "/");
    }
  };
  look("src/app", "");
  return found;
}
const fill = (address: string, study: string): string =>
  address
    .replace("[id]", study)
    .replace("[trial]", "t1")
    .replace("[response]", "white")
    .replace("[revision]", "1")
    .replace("[...rest]", "nothing/here")
    .replace(/\[\w+\]/g, "history");

test("every address and method answers 401 to a stranger, 403 to a bench's key but at its own bench, and to the desk neither", async ({
  browser,
}) => {
  const { url } = await linkFor(ours, "At the first bowl");
  const tablet = await device(browser);
  expect((await tablet.request.post("/api/session", { data: { key: keyOf(url) } })).status()).toBe(204);
  const stranger = await device(browser);
  const pages = addresses();
  // The folders and the table of operations name the same addresses under /api.
  const asFolder = (path: string): string => path.replace(/\{(\w+)\}/g, "[$1]");
  const inTable = new Set(operations.map((o) => asFolder(o.path)));
  const named = pages.filter((p) => p.startsWith("/api/") && !/\[verb\]|\[\.\.\.rest\]|openapi/.test(p));
  expect(named.filter((p) => !inTable.has(p))).toEqual([]);
  const methods = ["GET", "POST", "PUT", "PATCH", "DELETE"];
  const asked = [
    ...pages.flatMap((p) => (p.startsWith("/api/") ? methods : ["GET"]).map((m) => [m, p] as const)),
    ...operations.map(({ method, path }) => [method.toUpperCase(), asFolder(path)] as const),
  ];
  expect(asked.length).toBeGreaterThan(140);
  const statusOf = async (request: APIRequestContext, method: string, path: string): Promise<number> => {
    const body = ["POST", "PUT", "PATCH", "DELETE"].includes(method);
    const headers = { "content-type": "application/json" };
    const answer = await request.fetch(path, { method, ...(body ? { data: "{}", headers } : {}) });
    return answer.status();
  };
  const anyone = new Set(["GET /api/health", "GET /api/session", "POST /api/session", "DELETE /api/session"]);
  anyone.add("GET /login");
  const bench = new Set(["GET /studies/[id]/bench", "GET /api/studies/[id]/bench"]);
  bench.add("POST /api/studies/[id]/trials/[trial]/entries");
  // A program's key is one of the bench: it is lent trials there and brings their results back.
  for (const own of ["POST next", "DELETE next/[lease]"]) bench.add(own.replace(" ", " /api/studies/[id]/"));
  for (const act of ["results", "fail", "renew"]) bench.add(`POST /api/studies/[id]/next/[lease]/${act}`);
  const wrong: string[] = [];
  for (const [method, address] of asked) {
    const name = `${method} ${address}`;
    const path = fill(address, ours);
    // Signing out is tried last, apart: it would end the walk.
    if (name === "DELETE /api/session") continue;
    const seen = {
      stranger: await statusOf(stranger.request, method, path),
      tablet: await statusOf(tablet.request, method, path),
      elsewhere: await statusOf(tablet.request, method, fill(address, theirs)),
    };
    const open = anyone.has(name);
    // A session that is not there, or a passphrase that is wrong, is 401 by the address itself.
    const strangers = open ? (name.endsWith("/api/session") ? [401, 422] : [200]) : [401];
    const ok =
      strangers.includes(seen.stranger) &&
      (open ? seen.tablet < 400 || seen.tablet === 422 : bench.has(name) ? seen.tablet !== 403 : seen.tablet === 403) &&
      (open || !/\[id\]/.test(address) ? true : seen.elsewhere === 403);
    if (!ok) wrong.push(`${name}: ${JSON.stringify(seen)}`);
  }
  expect(wrong).toEqual([]);
  for (const [method, address] of asked) {
    if (method !== "GET") continue;
    const status = await statusOf(desk.request, method, fill(address, ours));
    if (status === 401 || status === 403) wrong.push(`desk: ${address} ${status}`);
  }
  expect(wrong).toEqual([]);
  // Addresses that two parts of a server might read otherwise lead nowhere.
  for (const path of ["//login", "/login/../api/studies", "/_next/static/..%2f..%2fapi/studies", "/%61pi/studies"])
    expect(await statusOf(stranger.request, "GET", BASE + path), path).toBe(401);
  // Nor do parts of pages that the application's own router asks for, or headers by which its inner parts speak.
  const tree = encodeURIComponent(JSON.stringify(["", { children: ["studies", {}] }, null, null, true]));
  const inners: Record<string, string>[] = [
    { rsc: "1", "next-router-state-tree": tree },
    { "x-matched-path": `/studies/${ours}/trials`, "x-invoke-path": `/studies/${ours}/trials` },
    { "x-middleware-rewrite": `/studies/${ours}/trials`, "x-middleware-subrequest": "src/middleware" },
    { "next-action": "0".repeat(42) },
  ];
  for (const inner of inners)
    for (const path of ["/login", `/studies/${ours}/trials`, `/studies/${theirs}/trials?_rsc=1`]) {
      for (const { request } of [stranger, tablet]) {
        const body = await (await request.get(path, { headers: inner })).text();
        expect(body, `${path} ${JSON.stringify(inner)}`).not.toContain("Bowl temperature");
      }
    }
  // What the server tells itself is not believed from outside.
  const forged = await stranger.request.get("/api/studies", {
    headers: {
      "x-trialmoor-session": encodeURIComponent('{"role":"desk","name":"","opened":true}'),
      "x-forwarded-for": "127.0.0.1",
    },
  });
  expect(forged.status()).toBe(401);
  expect((await tablet.request.delete("/api/session")).status()).toBe(204);
  expect(await statusOf(tablet.request, "GET", `/api/studies/${ours}/bench`)).toBe(401);
});

test("a key of the bench, in a cookie or sent by a program, reads what to set and writes results under its name, no more", async ({
  browser,
}) => {
  const { url } = await linkFor(ours, "Scale by the press");
  const stranger = await device(browser);
  const headers = { authorization: `Bearer ${keyOf(url)}` };
  const seen = await (await stranger.request.get(`/api/studies/${ours}/bench`, { headers })).text();
  expect(seen).toContain("Bowl temperature");
  for (const hidden of ["secret purpose", "customer", '"terms"', '"raise"']) expect(seen).not.toContain(hidden);
  const entry = { cell: "results", of: "white", value: 61.5, was: null };
  const path = `/api/studies/${ours}/trials/t1/entries`;
  const said = { "x-trialmoor-who": "Per%20Aske" };
  expect((await stranger.request.post(path, { headers: { ...headers, ...said }, data: entry })).status()).toBe(200);
  const { events } = (await (await desk.request.get(`/api/studies/${ours}/history`)).json()) as {
    events: { who: string }[];
  };
  expect(events[0].who).toBe("Per Aske (Scale by the press)");
  for (const wrong of [`Bearer ${keyOf(url).slice(1)}`, "Bearer", "Basic abc"])
    expect((await stranger.request.post(path, { headers: { authorization: wrong }, data: entry })).status()).toBe(401);
});

test("who signs in finds what was asked for, and every change stands under their name, whatever a page says", async ({
  browser,
}) => {
  const context = await device(browser);
  const page = await context.newPage();
  const answer = await page.goto(`/studies/${ours}/trials`);
  expect(answer?.status()).toBe(401);
  await expect(page.getByRole("button", { name: "Sign in" })).toBeVisible();
  expect(await axe(page)).toEqual([]);
  // By keys alone, wrong once; what was typed stays.
  await page.getByLabel("Your name").fill("Per Aske");
  await page.keyboard.press("Tab");
  await page.keyboard.type("heather on the moor");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "." })).toContainText("This is not the passphrase.");
  await expect(page.getByLabel("Your name")).toHaveValue("Per Aske");
  await page.getByLabel("Passphrase", { exact: true }).fill(PASSPHRASE);
  await page.keyboard.press("Enter");
  await page.locator('[data-station="trials"], [data-ready="yes"]').first().waitFor();
  await expect(page).toHaveURL(`${BASE}/studies/${ours}/trials`);
  await expect(page.getByRole("button", { name: "Per Aske" })).toBeVisible();
  await page.evaluate(() => localStorage.setItem("trialmoor:who", "Somebody Else"));
  await page.getByTestId("ledger").focus();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.type("63");
  await page.keyboard.press("Enter");
  await expect.poll(() => whites(ours)).toContain(63);
  const { events } = (await (await context.request.get(`/api/studies/${ours}/history`)).json()) as {
    events: { who: string }[];
  };
  expect(events[0].who).toBe("Per Aske");
  // Out again: the page and its data are closed.
  await page.getByRole("button", { name: "Per Aske" }).click();
  await page.getByRole("button", { name: "Sign out" }).click();
  await expect(page).toHaveURL(`${BASE}/login`);
  expect((await context.request.get(`/api/studies/${ours}`)).status()).toBe(401);
  await context.close();
});

test("a session that ends while somebody works is asked for again, and what they typed is saved then", async ({
  browser,
}) => {
  const context = await device(browser);
  await context.request.post("/api/session", { data: { passphrase: PASSPHRASE, name: "Per Aske" } });
  const page = await context.newPage();
  await page.goto(`/studies/${ours}/trials`);
  await page.locator('[data-ready="yes"]').waitFor();
  await page.getByTestId("ledger").focus();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.type("5");
  // The page looks for what programs did, and learns of the end while they type: the keyboard stays where it is.
  await context.request.delete("/api/session");
  const looked = page.waitForResponse((r) => r.status() === 401).then(() => page.waitForTimeout(2000).then(() => true));
  while (!(await Promise.race([looked, page.waitForTimeout(200)]))) await page.keyboard.press("Shift");
  await page.keyboard.type("8");
  await page.keyboard.press("Enter");
  const dialog = page.getByRole("dialog", { name: "Your session has ended" });
  await expect(dialog).toContainText("What you changed is kept in this browser");
  expect(await whites(ours)).not.toContain(58);
  await dialog.getByLabel("Passphrase", { exact: true }).fill(PASSPHRASE);
  await dialog.getByRole("button", { name: "Sign in" }).click();
  await expect(dialog).toBeHidden();
  await expect.poll(() => whites(ours)).toContain(58);
  await context.close();
});

test("a tablet is given its link on Trials, enters results, and is shut out when the link is taken back; what it holds is sent later", async ({
  browser,
}) => {
  const page = await desk.newPage();
  await page.goto(`/studies/${theirs}/trials`);
  await page.locator('[data-ready="yes"]').waitFor();
  await page.getByRole("button", { name: "Take along" }).click();
  await page.getByRole("menuitem", { name: /Tablets/ }).click();
  const dialog = page.getByRole("dialog", { name: "Tablets at the bench" });
  await dialog.getByRole("button", { name: "Make its link" }).click();
  await expect(dialog).toContainText("Name it: where does it stand?");
  await dialog.getByLabel("New tablet").fill("By the dryer");
  await page.keyboard.press("Enter");
  await expect(dialog.getByRole("img", { name: "Link of the bench for By the dryer" })).toBeVisible();
  const url = (await dialog.getByText(`${BASE}/studies/`).textContent()) ?? "";
  expect(await axe(page)).toEqual([]);
  await dialog.getByRole("button", { name: "The tablet has it" }).click();
  await expect(dialog.getByText(keyOf(url))).toHaveCount(0);
  await expect(dialog.getByRole("row", { name: /By the dryer/ })).toContainText("never");

  const tablet = await device(browser);
  const bench: Page = await tablet.newPage();
  await bench.goto(url);
  await bench.locator('[data-station="bench"]').waitFor();
  // The key does not stay in the address bar.
  expect(bench.url()).toBe(`${BASE}/studies/${theirs}/bench`);
  await bench.getByLabel("Whiteness", { exact: true }).fill("60");
  await bench.getByLabel("Whiteness", { exact: true }).press("Enter");
  await expect.poll(() => whites(theirs)).toEqual([60]);
  const { events } = (await (await desk.request.get(`/api/studies/${theirs}/history`)).json()) as {
    events: { who: string }[];
  };
  expect(events[0].who).toBe("By the dryer");
  expect((await bench.goto(`/studies/${theirs}/trials`))?.status()).toBe(403);
  await expect(bench.getByText("This device is “By the dryer”")).toBeVisible();
  await bench.goto(`/studies/${theirs}/bench`);
  await bench.locator('[data-ready="yes"]').waitFor();

  await page.reload();
  await page.locator('[data-ready="yes"]').waitFor();
  await page.getByRole("button", { name: "Take along" }).click();
  await page.getByRole("menuitem", { name: /Tablets/ }).click();
  await expect(dialog.getByRole("row", { name: /By the dryer/ })).not.toContainText("never");
  await dialog.getByRole("button", { name: "Take the link of By the dryer back" }).click();
  await expect(dialog.getByRole("row", { name: /By the dryer/ })).toHaveCount(0);
  await bench.getByLabel("Whiteness", { exact: true }).fill("61");
  await bench.getByLabel("Whiteness", { exact: true }).press("Enter");
  await expect(bench.getByRole("dialog")).toContainText("What you enter is kept on this device.");
  // The old link says why it opens nothing; a new one lets it in, and what waited is sent once.
  await bench.goto("about:blank");
  await bench.goto(url);
  await expect(bench.getByRole("alert").filter({ hasText: "." })).toContainText(
    "This link does not open the bench any more",
  );
  const again = await linkFor(theirs, "By the dryer");
  await bench.goto("about:blank");
  await bench.goto(again.url);
  await bench.locator('[data-station="bench"]').waitFor();
  await expect.poll(async () => (await whites(theirs)).filter((v) => v === 61)).toHaveLength(1);
  await page.close();
  await tablet.close();
});

test("five wrong passphrases, then even the right one waits; who is signed in stays", async ({ browser }) => {
  const context = await device(browser);
  const page = await context.newPage();
  await page.goto("/login");
  await page.getByLabel("Your name").fill("A guesser");
  for (let n = 0; n < 5; n++) {
    await page.getByLabel("Passphrase", { exact: true }).fill(`guess number ${n}`);
    // What stands there from the guess before says nothing of this one.
    const answered = page.waitForResponse("**/api/session");
    await page.keyboard.press("Enter");
    expect((await answered).status()).toBe(401);
    await expect(page.getByRole("alert").filter({ hasText: "." })).toContainText("This is not the passphrase.");
  }
  await page.getByLabel("Passphrase", { exact: true }).fill(PASSPHRASE);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "." })).toContainText(
    /Too many tries; try again in \d+ seconds\./,
  );
  await expect(page.getByLabel("Passphrase", { exact: true })).toHaveValue(PASSPHRASE);
  expect((await desk.request.get("/api/studies")).status()).toBe(200);
  await context.close();
});

test("behind a proxy of this machine: what it says is believed, what came without encryption is not answered", async () => {
  const own = mkdtempSync(join(tmpdir(), "trialmoor-proxy-"));
  await setPassphrase(own, PASSPHRASE);
  const behind = await ownServer(4298, own, { TRIALMOOR_PROXY: "1", TRIALMOOR_NAMES: "plant.test" });
  const ask = (path: string, headers: Record<string, string>, init: RequestInit = {}): Promise<Response> =>
    fetch(behind.base + path, { ...init, headers: { ...headers, ...(init.headers as Record<string, string>) } });
  const proxied = { "x-forwarded-proto": "https", "x-forwarded-host": "plant.test", "x-forwarded-for": "10.0.0.8" };
  try {
    const plain = await ask("/api/studies", {});
    expect([plain.status, ((await plain.json()) as { code: string }).code]).toEqual([403, "not-encrypted"]);
    expect((await ask("/api/studies", { ...proxied, "x-forwarded-host": "evil.test" })).status).toBe(421);
    expect((await ask("/api/studies", proxied)).status).toBe(401);
    const body = { method: "POST", headers: { "content-type": "application/json" } };
    const passphrase = JSON.stringify({ passphrase: PASSPHRASE, name: "Mirja Holt" });
    const signed = await ask("/api/session", proxied, { ...body, body: passphrase });
    expect(signed.status).toBe(204);
    const cookie = (signed.headers.get("set-cookie") ?? "").split(";")[0];
    expect((await ask("/api/studies", { ...proxied, cookie })).status).toBe(200);
    // Tries are counted by the address that the proxy names last; what a client wrote before it is not believed.
    const wrong = JSON.stringify({ passphrase: "not this one, sorry" });
    const tried = async (from: string): Promise<number> =>
      (await ask("/api/session", { ...proxied, "x-forwarded-for": from }, { ...body, body: wrong })).status;
    for (let n = 0; n < 5; n++) expect(await tried(`10.9.9.${n}, 10.0.0.66`)).toBe(401);
    expect(await tried("10.9.9.9, 10.0.0.66")).toBe(429);
    expect(await tried("10.0.0.66, 10.0.0.67")).toBe(401);
  } finally {
    await behind.stop();
    rmSync(own, { recursive: true, force: true });
  }
});

test("a program gets a key on Trials, which stands in its script and lends trials of that study alone", async ({
  playwright,
}) => {
  const page = await desk.newPage();
  await page.goto(`/studies/${ours}/trials`);
  await page.locator('[data-ready="yes"]').waitFor();
  await page.getByRole("button", { name: "By a program or rig" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("button", { name: "Make a key" }).click();
  await expect(dialog).toContainText("Name it: which program, on which machine?");
  await dialog.getByLabel("Key for").fill("Scour simulation");
  await dialog.getByRole("button", { name: "Make a key" }).click();
  await expect(dialog).toContainText("is shown this once");
  const script = (await page.getByTestId("script").textContent()) ?? "";
  const key = /KEY = "([^"]+)"/.exec(script)?.[1] ?? "";
  expect(script).toContain(`${BASE}/api/studies/${ours}/next`);
  expect(key.length).toBeGreaterThan(30);
  const program = await playwright.request.newContext({
    baseURL: BASE,
    ignoreHTTPSErrors: true,
    extraHTTPHeaders: { authorization: `Bearer ${key}` },
  });
  const ask = (study: string) => program.post(`/api/studies/${study}/next`, { data: { holder: "node 3" } });
  expect([200, 204]).toContain((await ask(ours)).status());
  expect((await ask(theirs)).status()).toBe(403);
  // It reaches no more than a bench does.
  expect((await program.get(`/api/studies/${ours}`)).status()).toBe(403);
  expect((await program.put(`/api/studies/${ours}/next`, { data: { stopped: true } })).status()).toBe(403);
  expect((await program.put(`/api/studies/${ours}/rigs/east`, { data: { do: "run" } })).status()).toBe(403);
  await program.dispose();
  await page.close();
});
