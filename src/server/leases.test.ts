import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { edit, enterResults, reviseStudy } from "@/core/study";
import { clock } from "./clock";
import { forgetLeases } from "./held-leases";
import { listHistory } from "./history";
import {
  giveBack,
  type Lease,
  lendNext,
  renewLease,
  setLeasing,
  takeFailure,
  takeResults,
  watchLeases,
} from "./leases";
import { changeStudy, importFile, readStudy } from "./studies";
import { ownFolder } from "./testing/own-folder";
import { refused } from "./testing/refused";

ownFolder("lending");

let id = "";
beforeEach(async () => {
  [{ id }] = await importFile(
    {
      format: "trialmoor-study",
      version: 1,
      title: "Lent",
      factors: [{ id: "a", kind: "continuous", low: 0, high: 10 }],
      responses: [{ id: "y" }, { id: "z" }],
      waves: [{ id: "w1" }],
      trials: [1, 2, 3].map((n) => ({ id: `t${n}`, wave: "w1", order: n, settings: { a: n } })),
    },
    "",
  );
});
afterEach(() => {
  vi.restoreAllMocks();
  vi.useRealTimers();
});

const who = (holder: string): string => `${holder} (key)`;
const next = async (holder = "sim", seconds?: number): Promise<Lease> => {
  const lent = await lendNext(id, { holder, ...(seconds === undefined ? {} : { seconds }) });
  if (!lent || !("lease" in lent)) throw new Error("nothing lent");
  return lent;
};
const data = (y: number, z = 0) => ({ data: { results: { y, z } } });
/** Time that goes on; timers of the database do not see it. */
const later = (seconds: number): void => {
  const now = clock.now();
  vi.spyOn(clock, "now").mockImplementation(() => now + seconds * 1000);
};
/** What somebody sets the computer's clock to. */
const setClock = (seconds: number): void => {
  const now = Date.now();
  vi.useFakeTimers({ toFake: ["Date"] });
  vi.setSystemTime(now + seconds * 1000);
};

describe("lending trials", () => {
  it("in run order, each once, with what a program must know", async () => {
    expect(await next()).toMatchObject({ trial: "t1", order: 1, settings: { a: 1 }, coded: { a: -0.8 } });
    expect((await next()).trial).toBe("t2");
    expect((await next()).trial).toBe("t3");
    // All are out: worth asking again, since one may come back.
    expect(await lendNext(id, { holder: "sim" })).toEqual({ again: 10 });
  });
  it("many at once get one each", async () => {
    const lent = await Promise.all(Array.from({ length: 6 }, () => lendNext(id, { holder: "sim" })));
    const trials = lent.flatMap((l) => (l && "lease" in l ? [l.trial] : []));
    expect(trials.sort()).toEqual(["t1", "t2", "t3"]);
  });
  it("takes results once, under the holder's name, without a revision", async () => {
    const { lease } = await next();
    await changeStudy(id, 1, [edit((await readStudy(id)).study, ["title"], "Renamed")], "renamed", "Ada");
    expect(await takeResults(id, lease, data(5), who, "k")).toMatchObject({
      revision: 3,
      trial: { id: "t1", state: "done", results: { y: 5, z: 0 } },
    });
    const [event] = (await listHistory(id, {})).events;
    expect([event.who, event.what]).toEqual(["sim (key)", "trial 1: run by a program"]);
    // The answer was lost and the same comes again.
    expect((await takeResults(id, lease, data(5), who, "k")).revision).toBe(3);
    expect((await refused(takeResults(id, lease, data(6), who, "k"))).code).toBe("key-reused");
    // Under another key, or none, it is a second result for a lease that is over.
    expect(await refused(takeResults(id, lease, data(6), who, "k2"))).toMatchObject({
      status: 409,
      code: "lease-over",
    });
    expect((await refused(takeResults(id, lease, data(5), who, undefined))).code).toBe("lease-over");
    expect((await readStudy(id)).study.trials[0].results.y).toBe(5);
  });
  it("takes what a program printed as it stands; what cannot be read leaves the trial lent", async () => {
    const { lease } = await next();
    for (const text of ["rubbish", "", "y=nan\nz=1", "y=1", "y=1\nz=2\nq=3"])
      await expect(takeResults(id, lease, { text }, who, undefined)).rejects.toThrow(/answer/);
    expect((await watchLeases(id, {})).lent.map((l) => l.trial)).toEqual(["t1"]);
    expect((await takeResults(id, lease, { text: "y=1 2\nz=3\n" }, who, undefined)).trial.results).toEqual({
      y: [1, 2],
      z: 3,
    });
  });
  it("a failure keeps its reason", async () => {
    const { lease } = await next();
    const { trial } = await takeFailure(id, lease, "flame out", who, "f");
    expect(trial).toMatchObject({ state: "failed", why: "flame out" });
    expect((await takeFailure(id, lease, "flame out", who, "f")).trial.state).toBe("failed");
  });
  it("a program that died gives its trial back when the lease is over; what it sends then is refused", async () => {
    const dead = await next("dead", 30);
    later(31);
    const again = await next("alive");
    expect(again.trial).toBe("t1");
    expect(await refused(takeResults(id, dead.lease, data(1), who, undefined))).toMatchObject({
      status: 409,
      code: "lease-over",
    });
    expect((await refused(renewLease(id, dead.lease))).code).toBe("lease-over");
    await takeResults(id, again.lease, data(2), who, undefined);
    expect((await readStudy(id)).study.trials[0].results.y).toBe(2);
  });
  it("lent on as often as asked it stays with who has it", async () => {
    const { lease, until } = await next("slow", 30);
    later(20);
    expect(Date.parse((await renewLease(id, lease)).until)).toBeGreaterThan(Date.parse(until));
    later(20);
    expect((await next("other")).trial).toBe("t2");
    await takeResults(id, lease, data(7), who, undefined);
  });
  it("a clock that is set back makes no lease longer; after a restart one has at most its own length", async () => {
    await next("dead", 30);
    setClock(-7200);
    // As a restart finds it: what the clock says is left would be two hours.
    forgetLeases();
    expect((await next("other")).trial).toBe("t2");
    later(31);
    expect((await next("alive")).trial).toBe("t1");
  });
  it("a clock that is set forward takes no lease away", async () => {
    const { lease } = await next("slow", 30);
    setClock(7200);
    expect((await next("other")).trial).toBe("t2");
    await takeResults(id, lease, data(7), who, undefined);
  });
  it("given back it waits again", async () => {
    const { lease } = await next();
    await giveBack(id, lease);
    expect((await next()).trial).toBe("t1");
    expect((await refused(giveBack(id, lease))).code).toBe("lease-over");
  });
  it("what a person entered meanwhile stays", async () => {
    const { lease } = await next();
    const { study } = await readStudy(id);
    await changeStudy(id, 1, enterResults(study, [{ trial: "t1", response: "y", value: 9 }]), "entered", "Ada");
    expect(await refused(takeResults(id, lease, data(1), who, undefined))).toMatchObject({
      status: 409,
      message: "Trial 1 does not wait any more: it was entered otherwise meanwhile. Nothing was overwritten.",
    });
    expect((await readStudy(id)).study.trials[0].results).toEqual({ y: 9 });
    // It is not told as lent any more.
    expect((await watchLeases(id, {})).lent).toEqual([]);
  });
  it("stops, goes on, and lends no more at once than asked", async () => {
    await setLeasing(id, { atOnce: 1 });
    const { lease } = await next();
    expect(await lendNext(id, { holder: "b" })).toEqual({ again: 10 });
    await setLeasing(id, { stopped: true });
    expect(await lendNext(id, { holder: "b" })).toBeUndefined();
    // What is out may still come back.
    await takeResults(id, lease, data(1), who, undefined);
    expect(await setLeasing(id, { stopped: false })).toMatchObject({ stopped: false, atOnce: 1, waiting: 2 });
    expect((await next()).trial).toBe("t2");
  });
  it("of no study, or no lease, is refused", async () => {
    expect((await refused(lendNext("none", { holder: "x" }))).code).toBe("no-study");
    expect((await refused(takeResults(id, "none", data(1), who, undefined))).code).toBe("lease-over");
    expect((await refused(watchLeases("none", {}))).code).toBe("no-study");
  });
});

describe("who watches", () => {
  it("is told what was changed since, as edits that lead from there to here", async () => {
    const before = (await readStudy(id)).study;
    for (const y of [1, 2]) await takeResults(id, (await next()).lease, data(y), who, undefined);
    const seen = await watchLeases(id, { since: 1 });
    expect(seen).toMatchObject({ revision: 3, waiting: 1, lately: { trials: 2 } });
    expect(reviseStudy(before, seen.changes ?? [])).toEqual((await readStudy(id)).study);
    expect((await watchLeases(id, { since: 3 })).changes).toEqual([]);
    // Without a revision, or from one that never was here, there is nothing to tell from.
    expect((await watchLeases(id, {})).changes).toBeUndefined();
  });
});
