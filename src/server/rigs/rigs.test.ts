import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { connect, createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import mqtt, { type MqttClient } from "mqtt";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Broker, startBroker } from "@/cli/rig/broker";
import { StandIn, type StandInOptions } from "@/cli/rig/stand-in";
import { rigNamed } from "@/core/operator";
import type { Study } from "@/core/study";
import { database } from "../database";
import { listHistory } from "../history";
import { watchLeases } from "../leases";
import { importFile, readStudy } from "../studies";
import { certificate } from "../testing/certificate";
import { ownFolder } from "../testing/own-folder";
import { refused } from "../testing/refused";
import { Assignments } from "./assignments";
import { type KnownRig, RigLink } from "./link";
import { orderRig } from "./order";
import { linked } from "./seen";
import { type RigSettings, readSettings } from "./settings";

ownFolder("rigs");

/** Trials and cuts of the long run; more of both by the environment. */
const TRIALS = Number(process.env.RIG_TRIALS ?? 60);
const CUTS = Number(process.env.RIG_CUTS ?? 6);

const wool = rigNamed("wool-line");
const woolStudy = (n: number, responses: string[] = wool.gauges.map((g) => g.id)) => ({
  format: "trialmoor-study",
  version: 1,
  title: "Line",
  factors: wool.knobs.map((k) =>
    k.range
      ? { id: k.id, name: k.name, kind: "continuous", low: k.range[0], high: k.range[1] }
      : { id: k.id, name: k.name, kind: "categorical", levels: k.levels },
  ),
  responses: responses.map((id) => ({ id })),
  waves: [{ id: "w1" }],
  trials: Array.from({ length: n }, (_, i) => ({
    id: `t${i + 1}`,
    wave: "w1",
    settings: Object.fromEntries(wool.knobs.map((k) => [k.id, k.range ? k.range[i % 2] : (k.levels ?? [])[i % 2]])),
  })),
});

let broker: Broker;
let open: { close(): Promise<void> }[] = [];
beforeEach(async () => {
  broker = await startBroker(0, { username: "moor", password: "heather" });
  open = [];
});
afterEach(async () => {
  await closeAll();
  linked({});
  await broker.close();
  const kept = await Assignments.read();
  for (const [rig] of kept.all()) await kept.set(rig, undefined);
});

async function closeAll(): Promise<void> {
  for (const one of open.splice(0).reverse()) await one.close();
}
const address = (): string => `mqtt://127.0.0.1:${broker.port}`;
async function link(more: Partial<RigSettings> = {}, assignments?: Assignments): Promise<RigLink> {
  const made = new RigLink(
    {
      broker: address(),
      version: 4,
      topics: "trialmoor",
      seconds: 3600,
      username: "moor",
      password: "heather",
      ...more,
    },
    assignments ?? (await Assignments.read()),
    100,
  );
  open.push(made);
  linked({ link: made });
  return made;
}
function standIn(id: string, options: Partial<StandInOptions> = {}): StandIn {
  const made = new StandIn(id, wool, {
    broker: address(),
    username: "moor",
    password: "heather",
    seconds: 0,
    ...options,
  });
  open.push(made);
  return made;
}
/** A rig of the test's own making, which says what it likes. */
async function oddRig(id: string): Promise<{
  client: MqttClient;
  trial(): Promise<Record<string, unknown>>;
  answer(): Promise<Record<string, unknown>>;
}> {
  const client = await mqtt.connectAsync(address(), { username: "moor", password: "heather" });
  open.push({ close: () => client.endAsync(true) });
  const heard: { topic: string; data: Record<string, unknown> }[] = [];
  client.on("message", (topic, payload) => heard.push({ topic, data: JSON.parse(payload.toString()) }));
  await client.subscribeAsync(["trialmoor/+/trial", "trialmoor/+/answer"], { qos: 1 });
  await client.publishAsync(`trialmoor/rigs/${id}/state`, '{"state":"ready"}', { qos: 1, retain: true });
  const next = async (last: string): Promise<Record<string, unknown>> => {
    const at = (): number => heard.findIndex((h) => h.topic.endsWith(last));
    await until(() => at() >= 0);
    return heard.splice(at(), 1)[0].data;
  };
  return { client, trial: () => next("/trial"), answer: () => next("/answer") };
}

async function until(is: () => boolean | Promise<boolean>, ms = 200_000): Promise<void> {
  const end = Date.now() + ms;
  while (!(await is())) {
    if (Date.now() > end) throw new Error("it did not come to that");
    await new Promise((resolve) => setTimeout(resolve, 15));
  }
}
/** A port that nobody listens at now. */
const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const server = createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });
const reachable = (port: number): Promise<boolean> =>
  new Promise((resolve) => {
    const socket = connect(port, "localhost", () => resolve(true)).on("error", () => resolve(false));
    socket.on("connect", () => socket.destroy());
  });
const rigOf = (made: RigLink, id: string): KnownRig | undefined => made.known().find((r) => r.id === id);
const studyOf = async (id: string): Promise<Study> => (await readStudy(id)).study;
async function begun(n: number, responses?: string[]): Promise<string> {
  const [{ id }] = await importFile(woolStudy(n, responses), "");
  return id;
}

describe("a rig over a broker", () => {
  it("makes itself known, runs what waits one at a time, and says when it goes", async () => {
    const id = await begun(5);
    const made = await link();
    const rig = standIn("east");
    await until(() => rigOf(made, "east")?.state === "ready");
    expect(rigOf(made, "east")).toMatchObject({ name: "Wool line (stand-in)" });
    await orderRig(id, "east", { do: "run" });
    await until(async () => (await studyOf(id)).trials.every((t) => t.state === "done"));
    const { trials } = await studyOf(id);
    expect(Object.keys(trials[0].results).sort()).toEqual(["cost", "grease", "tangle", "white"]);
    expect(rig.ran).toHaveLength(5);
    const [event] = (await listHistory(id, {})).events;
    expect([event.who, event.what]).toEqual(["Wool line (stand-in)", "trial 5: run by a program"]);
    await rig.close();
    await until(() => rigOf(made, "east")?.state === "gone");
  });
  it("that drops is said to be gone by its will, and goes on with the trial it holds when it is back", async () => {
    const id = await begun(2);
    const made = await link();
    const odd = await mqtt.connectAsync(address(), {
      username: "moor",
      password: "heather",
      reconnectPeriod: 0,
      will: { topic: "trialmoor/rigs/west/state", payload: Buffer.from('{"state":"gone"}'), qos: 1, retain: true },
    });
    await odd.publishAsync("trialmoor/rigs/west/state", '{"state":"ready"}', { qos: 1, retain: true });
    await until(() => rigOf(made, "west")?.state === "ready");
    await orderRig(id, "west", { do: "run" });
    await until(() => rigOf(made, "west")?.trial === 1);
    odd.stream.destroy();
    await until(() => rigOf(made, "west")?.state === "gone");
    const rig = standIn("west");
    await until(async () => (await studyOf(id)).trials.every((t) => t.state === "done"));
    expect(rig.ran).toHaveLength(2);
  });
  it(`${TRIALS} trials with the connection cut ${CUTS} times: none lost, none doubled`, async () => {
    const id = await begun(TRIALS);
    const made = await link();
    const rigs = [standIn("one"), standIn("two")];
    await until(() => made.known().length === 2);
    for (const rig of ["one", "two"]) await orderRig(id, rig, { do: "run" });
    const done = async (): Promise<number> => (await studyOf(id)).trials.filter((t) => t.state !== "planned").length;
    for (let cut = 1; cut <= CUTS; cut++) {
      await until(async () => (await done()) >= (cut * TRIALS) / (CUTS + 1));
      broker.cut();
    }
    await until(async () => (await done()) === TRIALS);
    const { revision, study } = await readStudy(id);
    expect(study.trials.every((t) => t.state === "done" && Object.keys(t.results).length === 4)).toBe(true);
    // One revision a trial: nothing was taken twice, and no trial was run twice.
    expect(revision).toBe(1 + TRIALS);
    const leases = rigs.flatMap((r) => r.ran);
    expect(new Set(leases).size).toBe(leases.length);
    expect(leases).toHaveLength(TRIALS);
  }, 600_000);
  it("rests, goes on, and stops: the trial that it runs then waits again", async () => {
    const id = await begun(6);
    const made = await link();
    const rig = standIn("east", { seconds: 0.3 });
    await until(() => rigOf(made, "east")?.state === "ready");
    await orderRig(id, "east", { do: "run" });
    await until(() => rigOf(made, "east")?.state === "running");
    await orderRig(id, "east", { do: "pause" });
    await until(() => rigOf(made, "east")?.state === "ready");
    await new Promise((resolve) => setTimeout(resolve, 200));
    expect((await studyOf(id)).trials.map((t) => t.state)).toEqual(["done", ...Array(5).fill("planned")]);
    await orderRig(id, "east", { do: "run" });
    await until(() => rigOf(made, "east")?.state === "running");
    await orderRig(id, "east", { do: "stop" });
    await until(() => rigOf(made, "east")?.state === "ready");
    expect((await watchLeases(id, {})).lent).toEqual([]);
    expect((await studyOf(id)).trials[1].state).toBe("planned");
    expect(rigOf(made, "east")?.study).toBeUndefined();
    expect(rig.ran).toHaveLength(1);
  });
  it("told to go on in the moment in which it becomes ready, it goes on", async () => {
    const id = await begun(2);
    const assignments = await Assignments.read();
    const made = await link({}, assignments);
    const odd = await oddRig("odd");
    const says = (state: string): Promise<unknown> =>
      odd.client.publishAsync("trialmoor/rigs/odd/state", JSON.stringify({ state }), { qos: 1, retain: true });
    await until(() => rigOf(made, "odd")?.state === "ready");
    await orderRig(id, "odd", { do: "run" });
    await odd.trial();
    await says("running");
    await until(() => rigOf(made, "odd")?.state === "running");
    const [{ lease }] = (await watchLeases(id, {})).lent;
    await orderRig(id, "odd", { do: "pause" });
    await odd.client.publishAsync(`trialmoor/${id}/result`, JSON.stringify({ lease, results: { grease: 0.4 } }));
    await odd.answer();
    // The order is still being written as the rig says that it is ready.
    const { set } = assignments;
    assignments.set = async (rig, work) => {
      await says("ready");
      await until(() => rigOf(made, "odd")?.state === "ready");
      await set.call(assignments, rig, work);
    };
    await orderRig(id, "odd", { do: "run" });
    expect(await odd.trial()).toMatchObject({ order: 2, rig: "odd" });
  });
  it("goes on after the server was started again", async () => {
    const id = await begun(8);
    const first = await link();
    standIn("east", { seconds: 0.1 });
    await until(() => rigOf(first, "east")?.state === "ready");
    await orderRig(id, "east", { do: "run" });
    await until(async () => (await studyOf(id)).trials[1].state === "done");
    await first.close();
    open.splice(open.indexOf(first), 1);
    await link();
    await until(async () => (await studyOf(id)).trials.every((t) => t.state === "done"));
    expect((await readStudy(id)).revision).toBe(9);
  });
});

describe("version 5, encrypted, over another broker", () => {
  let child: ChildProcess;
  let port = 0;
  const folder = mkdtempSync(join(tmpdir(), "trialmoor-mosquitto-"));
  const { cert, key } = certificate(folder, "localhost");
  beforeEach(async () => {
    port = await freePort();
    const passwords = join(folder, "passwords");
    writeFileSync(passwords, "");
    // Its own user may not read what ours wrote.
    execFileSync("mosquitto_passwd", ["-b", passwords, "moor", "heather"]);
    writeFileSync(
      join(folder, "mosquitto.conf"),
      `user root\nlistener ${port} localhost\npassword_file ${passwords}\ncertfile ${cert}\nkeyfile ${key}\n`,
    );
    child = spawn("/usr/sbin/mosquitto", ["-c", join(folder, "mosquitto.conf")], { stdio: "ignore" });
    await until(() => reachable(port));
  });
  afterEach(async () => {
    await closeAll();
    const gone = new Promise((resolve) => child.once("exit", resolve));
    child.kill();
    await gone;
  });
  const secure = () => ({ version: 5 as const, broker: `mqtts://localhost:${port}`, ca: readFileSync(cert) });

  it("trials go out with a response topic and correlation data, and a result may come by those alone", async () => {
    const id = await begun(2, ["grease"]);
    const made = await link(secure());
    const { broker: at, ca } = secure();
    const client = await mqtt.connectAsync(at, { protocolVersion: 5, username: "moor", password: "heather", ca });
    open.push({ close: () => client.endAsync(true) });
    client.on("message", (_topic, payload, { properties }) => {
      const { settings } = JSON.parse(payload.toString()) as { settings: { temp: number } };
      if (!properties?.responseTopic || !properties.correlationData) return;
      const results = { grease: settings.temp / 100 };
      client.publish(properties.responseTopic, JSON.stringify({ results }), {
        qos: 1,
        properties: { correlationData: properties.correlationData },
      });
    });
    await client.subscribeAsync("trialmoor/+/trial", { qos: 1 });
    const ready = (): Promise<unknown> =>
      client.publishAsync("trialmoor/rigs/five/state", '{"state":"ready"}', { qos: 1, retain: true });
    await ready();
    await until(() => rigOf(made, "five")?.state === "ready");
    await orderRig(id, "five", { do: "run" });
    await until(async () => (await studyOf(id)).trials[0].state === "done");
    await ready();
    await until(async () => (await studyOf(id)).trials[1].state === "done");
    expect((await studyOf(id)).trials.map((t) => t.results.grease)).toEqual([0.52, 0.68]);
  });
  it("the stand-in rig speaks it too; a broker that nobody vouches for is not trusted", async () => {
    const id = await begun(3);
    const made = await link(secure());
    const { broker: at, ca } = secure();
    standIn("five", { version: 5, broker: at, ca });
    await until(() => rigOf(made, "five")?.state === "ready");
    await orderRig(id, "five", { do: "run" });
    await until(async () => (await studyOf(id)).trials.every((t) => t.state === "done"));
    const { ca: _ca, ...stranger } = secure();
    const refusedLink = await link(stranger);
    await until(() => refusedLink.broker.state === "refused");
    expect(refusedLink.broker.sentence).toMatch(/certificate is not trusted/);
    const wrong = await link({ ...secure(), password: "gorse" });
    await until(() => wrong.broker.state === "refused");
    expect(wrong.broker.sentence).toBe("The broker refuses the user name or password of rigs.json.");
  });
});

describe("what a rig may do wrong", () => {
  it("a result of an unknown response: one sentence, the trial failed with it, and the rig rests", async () => {
    const id = await begun(3, ["grease"]);
    const made = await link();
    standIn("east");
    await until(() => rigOf(made, "east")?.state === "ready");
    await orderRig(id, "east", { do: "run" });
    const why = "The answer names “white”, which is no response of this study; its responses are grease.";
    await until(() => rigOf(made, "east")?.sentence === why);
    expect(rigOf(made, "east")).toMatchObject({ paused: true });
    await until(() => rigOf(made, "east")?.state === "ready");
    expect((await studyOf(id)).trials.map((t) => [t.state, t.why, t.results])).toEqual([
      ["failed", why, {}],
      ["planned", undefined, {}],
      ["planned", undefined, {}],
    ]);
  });
  it("rubbish, nothing, NaN, a result for no lease, a result twice: each is answered, none is taken", async () => {
    const id = await begun(6, ["grease"]);
    const made = await link();
    const rig = await oddRig("odd");
    await until(() => rigOf(made, "odd")?.state === "ready");
    const say = (body: string): Promise<unknown> => rig.client.publishAsync(`trialmoor/${id}/result`, body, { qos: 1 });
    // Where nobody says which trial it is about there is nobody to answer.
    await say("rubbish");
    await say('{"results":{"grease":1}}');
    await say('{"lease":"0123456789abcdef01234567","results":{"grease":1}}');
    expect(await rig.answer()).toMatchObject({ taken: false, code: "lease-over" });
    for (const [body, sentence] of [
      ['"results":{}', "The answer says nothing of grease; each response of the study is needed."],
      ['"results":{"grease":null}', "The answer gives grease as null, which is no number."],
      ['"results":{"grease":"nan"}', /neither lines of name=value nor one JSON object/],
      ['"grease":1', /neither lines of name=value nor one JSON object/],
    ] as const) {
      await orderRig(id, "odd", { do: "run" });
      const { lease } = await rig.trial();
      await say(`{"lease":"${lease}",${body}}`);
      expect(await rig.answer()).toMatchObject({
        lease,
        taken: false,
        detail: typeof sentence === "string" ? sentence : expect.stringMatching(sentence),
      });
      await until(() => rigOf(made, "odd")?.paused === true);
    }
    await orderRig(id, "odd", { do: "run" });
    const { lease, order } = await rig.trial();
    expect(order).toBe(5);
    for (let i = 0; i < 2; i++) {
      await say(`{"lease":"${lease}","results":{"grease":0.5},"asRun":{"temp":53},"note":"steam low"}`);
      expect(await rig.answer()).toEqual({ lease, taken: true });
    }
    await say(`{"lease":"${lease}","results":{"grease":0.7}}`);
    expect(await rig.answer()).toMatchObject({ lease, taken: false, code: "key-reused" });
    const { trials } = await studyOf(id);
    expect(trials[4]).toMatchObject({
      state: "done",
      results: { grease: 0.5 },
      asRun: { temp: 53 },
      note: "steam low",
    });
    expect(trials.slice(0, 4).map((t) => [t.state, t.results])).toEqual(Array(4).fill(["failed", {}]));
  });
  it("floods of results for no lease, and of names, reach neither the database nor the list", async () => {
    const id = await begun(3, ["grease"]);
    const made = await link();
    const rig = await oddRig("odd");
    await until(() => rigOf(made, "odd")?.state === "ready");
    const { sequelize } = await database();
    const asked = vi.spyOn(sequelize, "query");
    const flood = 3000;
    for (let i = 0; i < flood; i++)
      rig.client.publish(
        `trialmoor/${id}/result`,
        `{"lease":"${i.toString(16).padStart(24, "0")}","results":{"grease":1}}`,
      );
    for (let i = 0; i < flood; i++) expect(await rig.answer()).toMatchObject({ taken: false, code: "lease-over" });
    expect(asked).not.toHaveBeenCalled();
    asked.mockRestore();
    for (let i = 0; i < 300; i++) rig.client.publish(`trialmoor/rigs/r${i}/state`, '{"state":"trouble"}');
    await until(() => made.broker.sentence !== undefined);
    expect(made.known()).toHaveLength(200);
    expect(made.broker.sentence).toMatch(/^More than 200 rigs make themselves known/);
    // One that is gone makes room, and a rig that has work is always known.
    await rig.client.publishAsync("trialmoor/rigs/r7/state", '{"state":"gone"}', { qos: 1 });
    await until(() => rigOf(made, "r7")?.state === "gone");
    await rig.client.publishAsync("trialmoor/rigs/late/state", '{"state":"ready"}', { qos: 1 });
    await until(() => rigOf(made, "late") !== undefined);
    expect(made.known()).toHaveLength(200);
  });
  it("results that come faster than they are taken in wait, at most two hundred of a study; the rest comes again", async () => {
    const id = await begun(1, ["grease"]);
    const made = await link();
    const rig = await oddRig("odd");
    await until(() => rigOf(made, "odd")?.state === "ready");
    await orderRig(id, "odd", { do: "run" });
    const { lease } = await rig.trial();
    const body = `{"lease":"${lease}","results":{"grease":0.5}}`;
    for (let i = 0; i < 2000; i++) rig.client.publish(`trialmoor/${id}/result`, body);
    await until(() => made.broker.sentence !== undefined);
    expect(made.broker.sentence).toMatch(/^Results of one study come faster/);
    await until(async () => (await studyOf(id)).trials[0].state === "done");
    expect((await readStudy(id)).revision).toBe(2);
  });
  it("a trial that failed keeps why", async () => {
    const id = await begun(1, ["grease"]);
    const made = await link();
    const rig = await oddRig("odd");
    await until(() => rigOf(made, "odd")?.state === "ready");
    await orderRig(id, "odd", { do: "run" });
    const { lease } = await rig.trial();
    await rig.client.publishAsync(`trialmoor/${id}/result`, JSON.stringify({ lease, failed: "steam valve stuck" }));
    expect(await rig.answer()).toEqual({ lease, taken: true });
    expect((await studyOf(id)).trials[0]).toMatchObject({ state: "failed", why: "steam valve stuck" });
  });
  it("the wrong password, and a broker that is not there, are said in a sentence", async () => {
    const made = await link({ password: "wrong" });
    await until(() => made.broker.state === "refused");
    expect(made.broker.sentence).toBe("The broker refuses the user name or password of rigs.json.");
    const nowhere = new RigLink(
      { broker: "mqtt://127.0.0.1:1", version: 4, topics: "t", seconds: 60 },
      await Assignments.read(),
    );
    open.push(nowhere);
    await until(() => nowhere.broker.state === "refused");
    expect(nowhere.broker.sentence).toBe("Nothing answers at the broker's address.");
  });
  it("an order to a rig that nobody heard of, or that runs elsewhere, is refused", async () => {
    const [a, b] = [await begun(2), await begun(2)];
    const made = await link();
    standIn("east", { seconds: 5 });
    await until(() => rigOf(made, "east")?.state === "ready");
    expect(await refused(orderRig(a, "none", { do: "run" }))).toMatchObject({ status: 404, code: "no-rig" });
    expect((await refused(orderRig("none", "east", { do: "run" }))).code).toBe("no-study");
    await orderRig(a, "east", { do: "run" });
    expect(await refused(orderRig(b, "east", { do: "run" }))).toMatchObject({
      status: 409,
      message: "Wool line (stand-in) runs trials of “Line”; stop it there first.",
    });
  });
});

describe("the settings file", () => {
  const read = (text: string | undefined) => {
    const folder = mkdtempSync(join(tmpdir(), "trialmoor-rig-settings-"));
    if (text !== undefined) writeFileSync(join(folder, "rigs.json"), text);
    return readSettings(folder);
  };
  it("says the broker; all else has a value unless said", () => {
    expect(read(undefined)).toBeUndefined();
    expect(read('{"broker":"mqtts://broker.example:8883"}')).toEqual({
      settings: { broker: "mqtts://broker.example:8883", version: 4, topics: "trialmoor", seconds: 3600 },
    });
  });
  it.each([
    ["{", "is not JSON"],
    ["{}", "broker cannot be used"],
    ['{"broker":"http://x"}', "broker cannot be used"],
    ['{"broker":"mqtt://me:secret@x"}', "broker cannot be used"],
    ['{"broker":"mqtt://x","topic":"y"}', "holds a key that means nothing here"],
    ['{"broker":"mqtt://x","topics":"a/#"}', "topics cannot be used"],
    ['{"broker":"mqtt://x","version":3}', "version cannot be used"],
    ['{"broker":"mqtt://x","ca":"none.pem"}', "the file of ca cannot be read"],
  ])("%s: %s", (text, why) => {
    const found = read(text) as { sentence: string };
    expect(found.sentence).toContain(why);
    expect(found.sentence).not.toContain("secret");
  });
});
