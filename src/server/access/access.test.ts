import { randomBytes, scryptSync } from "node:crypto";
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { beforeAll, describe, expect, it } from "vitest";
import { makeBackup, restoreBackup } from "../backups";
import { database } from "../database";
import type { Problem } from "../problem";
import { createStudy } from "../studies";
import { ownFolder } from "../testing/own-folder";
import { refused } from "../testing/refused";
import { keySchema, listKeys, makeKey, revokeKey } from "./keys";
import { isPassphrase, passphraseMark, setPassphrase } from "./passphrase";
import { byKey, byToken, FORGET, LIFE, signIn, signInByKey, signOut, sweepSessions, tokenIn } from "./sessions";
import { triesOf, WrongTries } from "./tries";

ownFolder("access");

const GOOD = "heather on the lower moor";
const tokenOf = (cookie: string): string => tokenIn(cookie.split(";")[0]) ?? "";
const keyIn = (url: string): string => new URL(url).hash.slice("#key=".length);
/** Sets a passphrase whose digest takes a thousandth of the work: these tests look at what comes after. */
async function setLightly(passphrase: string): Promise<void> {
  const { folder } = await database();
  const made = { n: 2 ** 7, r: 8, p: 1, salt: randomBytes(16).toString("base64") };
  const digest = scryptSync(passphrase, Buffer.from(made.salt, "base64"), 32, { N: made.n, r: made.r, p: made.p });
  const kept = { algorithm: "scrypt", ...made, digest: digest.toString("base64") };
  writeFileSync(join(folder, "passphrase.json"), JSON.stringify(kept));
}
let study = "";
let other = "";
beforeAll(async () => {
  const { folder } = await database();
  await setPassphrase(folder, GOOD);
  study = (await createStudy("Ours", "")).id;
  other = (await createStudy("Theirs", "")).id;
});

describe("the passphrase", () => {
  it("is kept as scrypt's digest, for its owner alone, as anybody can work out anew", async () => {
    const { folder } = await database();
    const path = join(folder, "passphrase.json");
    const kept = JSON.parse(readFileSync(path, "utf8")) as Record<string, string> & { n: number; r: number; p: number };
    expect(statSync(path).mode & 0o777).toBe(0o600);
    expect(readFileSync(path, "utf8")).not.toContain("heather");
    // RFC 7914 as Node's synchronous function has it, past our own code.
    const digest = scryptSync(GOOD, Buffer.from(kept.salt, "base64"), 32, {
      N: kept.n,
      r: kept.r,
      p: kept.p,
      maxmem: 2 ** 28,
    });
    expect(kept.digest).toBe(digest.toString("base64"));
    expect([kept.n, kept.r, kept.p]).toEqual([2 ** 17, 8, 1]);
  });
  it("is told from any other, and from the same letters written otherwise it is not", async () => {
    const folder = mkdtempSync(join(tmpdir(), "trialmoor-pass-"));
    // é as one letter and as two: keyboards differ in what they send.
    await setPassphrase(folder, "caf\u00e9 by the moor");
    expect(await isPassphrase(folder, "cafe\u0301 by the moor")).toBe(true);
    for (const wrong of ["cafe by the moor", "caf\u00e9 by the moor ", ""])
      expect(await isPassphrase(folder, wrong), wrong).toBe(false);
    rmSync(folder, { recursive: true });
    expect(await isPassphrase(folder, "")).toBe(false);
  });
  it("is refused where it is short or endless, and nothing is changed; a damaged file is said", async () => {
    const folder = mkdtempSync(join(tmpdir(), "trialmoor-pass-"));
    await expect(setPassphrase(folder, "elevenchars")).rejects.toThrow(/at least 12 characters/);
    await expect(setPassphrase(folder, "a".repeat(201))).rejects.toThrow(/at most 200 characters/);
    expect(passphraseMark(folder)).toBeUndefined();
    writeFileSync(join(folder, "passphrase.json"), '{"algorithm":"scrypt"}');
    expect(() => passphraseMark(folder)).toThrow(/passphrase\.json is damaged/);
    rmSync(folder, { recursive: true });
  });
});

describe("wrong tries", () => {
  it("are five, then each waits twice as long as the last, up to a quarter of an hour; an hour later they are forgotten", () => {
    const tries = new WrongTries();
    const waits: number[] = [];
    let now = 0;
    for (let n = 0; n < 12; n++) {
      now += tries.waits("a", now);
      tries.begun("a", now);
      waits.push(tries.waits("a", now) / 1000);
    }
    expect(waits).toEqual([0, 0, 0, 0, 30, 60, 120, 240, 480, 900, 900, 900]);
    expect(tries.waits("b", now)).toBe(0);
    expect(tries.waits("a", now + 3_600_001)).toBe(0);
    tries.begun("a", now);
    tries.right("a");
    expect(tries.waits("a", now)).toBe(0);
  });
  it("make one wait from when they are found wrong, however long the look took", () => {
    const tries = new WrongTries();
    for (let n = 0; n < 5; n++) tries.begun("slow", 0);
    for (let n = 0; n < 5; n++) tries.wrong("slow", 100_000);
    expect(tries.waits("slow", 100_000)).toBe(30_000);
    // Found wrong once more it has not been tried once more.
    tries.begun("slow", 130_000);
    tries.wrong("slow", 131_000);
    expect(tries.waits("slow", 131_000)).toBe(60_000);
  });
  it("are counted by address, of IPv6 by its network", () => {
    expect(triesOf("::ffff:10.1.2.3")).toBe("10.1.2.3");
    expect(triesOf("2001:db8:1:2:aaaa::1")).toBe(triesOf("2001:db8:1:2:bbbb:1:2:3"));
    expect(triesOf("2001:db8:1:2::1")).not.toBe(triesOf("2001:db8:1:3::1"));
    expect(triesOf("2001:db8::1")).toBe(triesOf("2001:db8:0:0:9:9:9:9"));
  });
  it("are held for at most ten thousand addresses", () => {
    const tries = new WrongTries();
    for (let n = 0; n < 5; n++) tries.begun("first", 0);
    for (let n = 0; n < 10_000; n++) tries.begun(`x${n}`, 1);
    expect(tries.waits("first", 2)).toBe(0);
    expect(tries.waits("x9999", 2)).toBe(0);
  });
});

describe("a session", () => {
  beforeAll(() => setLightly(GOOD));
  it("is held by a cookie that no script reads and no other page sends, and carries a name", async () => {
    const { cookie } = await signIn(GOOD, "Mirja Holt", "10.0.0.1", undefined);
    expect(cookie).toMatch(/^__Host-trialmoor=[\w-]{43}; Path=\/; Max-Age=604800; HttpOnly; Secure; SameSite=Strict$/);
    expect(FORGET).toContain("Max-Age=0");
    expect(await byToken(tokenOf(cookie))).toEqual({ role: "desk", name: "Mirja Holt", opened: true });
    const { sessions } = await database();
    // What is kept lets nobody in.
    expect(JSON.stringify(await sessions.findAll({ raw: true }))).not.toContain(tokenOf(cookie));
    expect(await byToken("none")).toBeUndefined();
  });
  it("ends when it is signed out, when another takes its place, unused, after its time, and with its passphrase", async () => {
    const begin = async (before?: string): Promise<string> =>
      tokenOf((await signIn(GOOD, "Per Aske", "10.0.0.2", before)).cookie);
    const [out, replaced, old] = [await begin(), await begin(), await begin()];
    await signOut(out);
    const next = await begin(replaced);
    expect([await byToken(out), await byToken(replaced)]).toEqual([undefined, undefined]);
    expect(await byToken(next)).toBeDefined();
    const now = Date.now();
    // What a page asks by itself is answered, and keeps no session alive.
    expect(await byToken(old, now + LIFE.desk.idle - 60_000, false)).toBeDefined();
    expect(await byToken(old, now + LIFE.desk.idle + 60_000, false)).toBeUndefined();
    expect(await byToken(old, now + LIFE.desk.idle - 60_000)).toBeDefined();
    expect(await byToken(old, now + LIFE.desk.idle + 60_000)).toBeUndefined();
    const { sequelize, folder } = await database();
    // In use all the while, it still ends.
    await sequelize.query("UPDATE sessions SET usedAt = $at", {
      bind: { at: new Date(now + LIFE.desk.whole).toISOString() },
    });
    expect(await byToken(old, now + LIFE.desk.whole - 60_000)).toBeDefined();
    expect(await byToken(old, now + LIFE.desk.whole + 60_000)).toBeUndefined();
    expect(await sweepSessions(now)).toBe(0);
    expect(await sweepSessions(now + LIFE.desk.whole + 60_000)).toBeGreaterThan(1);
    const last = await begin();
    await setPassphrase(folder, `${GOOD}, again`);
    expect(await byToken(last)).toBeUndefined();
    await setLightly(GOOD);
  });
  it("takes five wrong passphrases from an address, many at once too, then waits even for the right one", async () => {
    const wrong = await Promise.all(
      Array.from({ length: 8 }, () => refused(signIn("not this one, sorry", "", "10.0.0.3", undefined))),
    );
    expect(wrong.map((p) => p.code).sort()).toEqual([
      ...Array<string>(3).fill("too-many-tries"),
      ...Array<string>(5).fill("wrong-passphrase"),
    ]);
    const late = await refused(signIn(GOOD, "", "10.0.0.3", undefined));
    expect([late.status, late.code]).toEqual([429, "too-many-tries"]);
    expect(Number(late.headers["retry-after"])).toBeGreaterThan(20);
    expect(await signIn(GOOD, "", "10.0.0.4", undefined)).toBeDefined();
  });
  it("asks to come back where twenty others wait for theirs to be looked at, from wherever they come", async () => {
    const asked = Array.from({ length: 25 }, (_, n) => signIn(GOOD, "", `10.1.0.${n}`, undefined));
    const ended = await Promise.allSettled(asked);
    expect(ended.filter((e) => e.status === "fulfilled")).toHaveLength(20);
    for (const e of ended) if (e.status === "rejected") expect((e.reason as Problem).code).toBe("too-many-tries");
  });
});

describe("a key of the bench", () => {
  it("opens one study's bench by a link that is told once, says when it was used, and can be taken back", async () => {
    const made = await makeKey(study, "At the first bowl", "https://plant.test");
    expect(made.url).toMatch(new RegExp(`^https://plant\\.test/studies/${study}/bench#key=[\\w-]{43}$`));
    const before = (await listKeys(study)).find((k) => k.id === made.id);
    expect(before).toMatchObject({ name: "At the first bowl", lastUsed: null });
    expect(JSON.stringify(await listKeys(study))).not.toContain(keyIn(made.url));
    const { cookie, session } = await signInByKey(keyIn(made.url), undefined);
    const who = { role: "bench", name: "At the first bowl", study, opened: true };
    expect(session).toEqual(who);
    expect(await byToken(tokenOf(cookie))).toEqual(who);
    expect((await byKey(keyIn(made.url)))?.session).toEqual(who);
    expect((await listKeys(study)).find((k) => k.id === made.id)?.lastUsed).toMatch(/^\d{4}-/);
    // Another study cannot take it back, and does not list it.
    expect((await refused(revokeKey(other, made.id))).code).toBe("no-bench-key");
    expect(await listKeys(other)).toEqual([]);
    await revokeKey(study, made.id);
    expect(await byToken(tokenOf(cookie))).toBeUndefined();
    expect((await refused(signInByKey(keyIn(made.url), undefined))).code).toBe("wrong-bench-key");
    expect((await refused(revokeKey(study, made.id))).status).toBe(404);
  });
  it("has its newest twenty sessions", async () => {
    const { url } = await makeKey(study, "Opened over and over", "https://plant.test");
    const tokens: string[] = [];
    for (let n = 0; n < 22; n++) tokens.push(tokenOf((await signInByKey(keyIn(url), undefined)).cookie));
    const held = await Promise.all(tokens.map((t) => byToken(t)));
    expect(held.map((s) => s !== undefined)).toEqual([false, false, ...Array<boolean>(20).fill(true)]);
  });
  it("has a name, and a study has fifty at most", async () => {
    expect(keySchema.safeParse({ name: "  " }).success).toBe(false);
    for (let n = 0; n < 50; n++) await makeKey(other, `tablet ${n}`, "https://plant.test");
    expect((await refused(makeKey(other, "one more", "https://plant.test"))).code).toBe("too-many-bench-keys");
    expect((await refused(makeKey("none", "x", "https://plant.test"))).code).toBe("no-study");
  });
});

it("a backup holds nobody's way in, and restoring one leaves those that stand", async () => {
  const { url } = await makeKey(study, "stays", "https://plant.test");
  const { cookie } = await signIn(GOOD, "Mirja Holt", "10.0.0.9", undefined);
  const { sequelize, folder } = await database();
  const [rows] = (await sequelize.query(
    "SELECT digest FROM sessions UNION SELECT digest FROM benchKeys",
  )) as unknown as [{ digest: string }[]];
  expect(rows.length).toBeGreaterThan(50);
  const { name } = await makeBackup();
  const bytes = readFileSync(join(folder, "backups", name)).toString("latin1");
  expect(bytes).toContain("Ours");
  expect(rows.filter(({ digest }) => bytes.includes(digest))).toEqual([]);
  await restoreBackup(name, undefined, "");
  expect(await byToken(tokenOf(cookie))).toBeDefined();
  expect(await byKey(keyIn(url))).toBeDefined();
});
