import { type ChildProcess, spawn, spawnSync } from "node:child_process";
import { appendFileSync, existsSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { parseStudy, type Study } from "@/core/study";

const bundle = join(process.cwd(), "dist/headless.mjs");
const folder = mkdtempSync(join(tmpdir(), "trialmoor-run-"));
const env = { ...process.env, INIT_CWD: folder };

/** A study of n waiting trials: y = 10 a + b to be worked out by a program. */
function waitingStudy(name: string, n: number): string {
  const study = {
    format: "trialmoor-study",
    version: 1,
    title: name,
    factors: [
      { id: "a", kind: "continuous", low: 0, high: 1000 },
      { id: "b", kind: "continuous", low: 0, high: 10 },
    ],
    responses: [{ id: "y" }, { id: "z", name: "Second" }],
    waves: [{ id: "w1" }],
    trials: Array.from({ length: n }, (_, i) => ({ id: `t${i + 1}`, wave: "w1", settings: { a: i, b: i % 7 } })),
  };
  const file = `${name}.trialmoor.json`;
  writeFileSync(join(folder, file), JSON.stringify(study));
  return file;
}
/** A program of these lines of shell, which sees its trial's settings as $a and $b. */
function program(name: string, lines: string): string {
  const settings = `sed 's/.*"settings":{"a":\\([0-9]*\\),"b":\\([0-9]*\\)}.*/\\1 \\2/'`;
  writeFileSync(join(folder, `${name}.sh`), `set -- $(${settings}); a=$1; b=$2\n${lines}\n`);
  return `sh ${name}.sh`;
}
const studyIn = (file: string): Study => parseStudy(JSON.parse(readFileSync(join(folder, file), "utf8")));
const run = (file: string, command: string, ...more: string[]) => {
  const args = [bundle, "run", file, "--program", command, ...more];
  return spawnSync(process.execPath, args, { cwd: folder, encoding: "utf8", env });
};
const report = (file: string, command: string, ...more: string[]) => {
  const { status, stdout, stderr } = run(file, command, ...more, "--json");
  expect([status, stderr]).toEqual([0, ""]);
  return JSON.parse(stdout);
};
/** Waits until the log of a run tells of some outcomes. */
async function outcomes(file: string, least: number): Promise<void> {
  const log = join(folder, `${file}.run.jsonl`);
  const told = (): number => (existsSync(log) ? readFileSync(log, "utf8").split('"trial"').length - 1 : 0);
  while (told() < least) await new Promise((resolve) => setTimeout(resolve, 10));
}
const sums = "echo y=$((10 * a + b)); echo Second=$b";

describe("run", () => {
  it("200 trials, four at once, some of which fail: each result where it belongs, each failure with last words", () => {
    const file = waitingStudy("many", 200);
    const command = program(
      "some",
      `if [ $((a % 10)) = 3 ]; then echo warming up >&2; echo flame out at $a >&2; exit 4; fi\n${sums}`,
    );
    const { ran, failed, left } = report(file, command, "--at-once", "4");
    expect([ran.length, failed.length, left]).toEqual([180, 20, 0]);
    for (const t of studyIn(file).trials) {
      const { a, b } = t.settings as { a: number; b: number };
      if (a % 10 === 3)
        expect(t).toMatchObject({
          state: "failed",
          why: `the program ended with exit code 4; its last words: flame out at ${a}`,
          results: {},
        });
      else expect(t).toMatchObject({ state: "done", results: { y: 10 * a + b, z: b } });
    }
  });
  it("what a program may do wrong is one sentence with its trial, and nothing is taken of it", () => {
    const file = waitingStudy("wrong", 8);
    const command = program(
      "wrong",
      `case $a in
        0) echo "Traceback (most recent call last)";;
        1) ;;
        2) printf 'y=nan\\nz=1\\n';;
        3) printf '{"y":1,"z":2}\\n{"y":1,"z":2}\\n';;
        4) echo still heating >&2; sleep 60;;
        5) echo y=1;;
        6) head -c 1100000 /dev/zero | tr '\\0' x;;
        7) ${sums};;
      esac`,
    );
    const { failed, ran } = report(file, command, "--at-once", "8", "--timeout", "2");
    const why = Object.fromEntries(failed.map((f: { trial: string; why: string }) => [f.trial, f.why]));
    expect(why).toEqual({
      t1: "The answer “Traceback (most recent call last)” is neither lines of name=value nor one JSON object.",
      t2: "The answer is empty; print lines of name=value, or one JSON object.",
      t3: 'The answer gives y as "nan", which is no number.',
      t4: "The program answered more than once; print one answer a trial.",
      t5: "no answer within 2 s; its last words: still heating",
      t6: "The answer says nothing of z; each response of the study is needed.",
      t7: expect.stringMatching(/^it printed more than 1,000,000 characters/),
    });
    expect(ran).toEqual([{ trial: "t8", order: 8 }]);
    expect(
      studyIn(file)
        .trials.filter((t) => Object.keys(t.results).length > 0)
        .map((t) => t.id),
    ).toEqual(["t8"]);
  });
  it("tries again as often as asked; the log keeps each try", () => {
    const file = waitingStudy("again", 2);
    const command = program(
      "again",
      `f=tries-$a; n=$(cat $f 2>/dev/null || echo 0); echo $((n + 1)) > $f
      if [ $a = 1 ] || [ $n -lt 2 ]; then echo try $n >&2; exit 1; fi\n${sums}`,
    );
    const { ran, failed } = report(file, command, "--tries", "3");
    expect([ran, failed.map((f: { why: string }) => f.why)]).toEqual([
      [{ trial: "t1", order: 1 }],
      ["the program ended with exit code 1; its last words: try 2"],
    ]);
    const log = readFileSync(join(folder, `${file}.run.jsonl`), "utf8")
      .split("\n")
      .filter(Boolean);
    const tries = log.map((l) => JSON.parse(l)).filter((l) => l.trial);
    expect(tries.map((t) => [t.trial, t.try, t.again])).toEqual([
      ["t1", 1, true],
      ["t1", 2, true],
      ["t1", 3, false],
      ["t2", 1, true],
      ["t2", 2, true],
      ["t2", 3, false],
    ]);
  });
  it("goes on from its log where it was cut short, and takes nothing twice", () => {
    const file = waitingStudy("cut", 3);
    // As a run leaves it that was killed between an outcome and the study file, its last line torn.
    appendFileSync(
      join(folder, `${file}.run.jsonl`),
      `\n{"trial":"t2","answer":{"results":{"y":-1,"z":-2}}}\n{"trial":"t3","why":"first try","again":true}\n{"trial":"t1","ans`,
    );
    const { ran, restored } = report(file, program("rest", sums));
    expect([ran.map((r: { trial: string }) => r.trial), restored]).toEqual([["t1", "t3"], 1]);
    expect(studyIn(file).trials.map((t) => t.results.y)).toEqual([0, -1, 22]);
    expect(report(file, program("rest", sums))).toMatchObject({ ran: [], restored: 0, left: 0 });
  });
  const KILLS = Number(process.env.SOAK_KILLS ?? 3);
  it(`killed ${KILLS} times at any moment it loses no outcome that the log holds`, {
    timeout: 240_000 + KILLS * 10_000,
  }, async () => {
    const trials = 10 * KILLS + 10;
    const file = waitingStudy("killed", trials);
    const command = program("slow", `sleep 0.0$((a % 9)); ${sums}`);
    const start = (): ChildProcess =>
      spawn(process.execPath, [bundle, "run", file, "--program", command, "--json"], { cwd: folder, env });
    for (let k = 0; k < KILLS; k++) {
      const child = start();
      const ended = new Promise((resolve) => child.on("close", resolve));
      await outcomes(file, 10 * k + 3);
      child.kill("SIGKILL");
      await ended;
    }
    const { left } = report(file, command);
    expect(left).toBe(0);
    expect(studyIn(file).trials.map((t) => t.results.y)).toEqual(
      Array.from({ length: trials }, (_, i) => 10 * i + (i % 7)),
    );
    // No trial was taken in twice.
    const log = readFileSync(join(folder, `${file}.run.jsonl`), "utf8")
      .split("\n")
      .filter(Boolean);
    const ids = log.flatMap((l) => JSON.parse(l).trial ?? []);
    expect(new Set(ids).size).toBe(trials);
    expect(ids).toHaveLength(trials);
  });
  it("stopped by the person it keeps what has come; trials under way wait on", async () => {
    const file = waitingStudy("stopped", 30);
    const command = program("slower", `sleep 0.1; ${sums}`);
    const child = spawn(process.execPath, [bundle, "run", file, "--program", command], { cwd: folder, env });
    let printed = "";
    child.stdout.on("data", (d) => {
      printed += d;
    });
    // The first trial that is told of has run.
    await outcomes(file, 1);
    child.kill("SIGINT");
    const code = await new Promise((resolve) => child.on("close", resolve));
    expect(code).toBe(0);
    expect(printed).toMatch(/left: stopped/);
    const { trials } = studyIn(file);
    const done = trials.filter((t) => t.state === "done").length;
    expect(done).toBeGreaterThan(0);
    expect(trials.filter((t) => t.state === "planned")).toHaveLength(30 - done);
    expect(existsSync(join(folder, `${file}.run.lock`))).toBe(false);
  });
  it("a change made to the study file meanwhile stays", async () => {
    const file = waitingStudy("shared", 12);
    const command = program("quick", `sleep 0.2; ${sums}`);
    const child = spawn(process.execPath, [bundle, "run", file, "--program", command], { cwd: folder, env });
    await outcomes(file, 1);
    const now = studyIn(file);
    const last = now.trials[11];
    writeFileSync(
      join(folder, file),
      JSON.stringify({
        ...now,
        notes: "by hand",
        trials: [...now.trials.slice(0, 11), { ...last, state: "done", results: { y: 5, z: 5 } }],
      }),
    );
    await new Promise((resolve) => child.on("close", resolve));
    const after = studyIn(file);
    expect(after.notes).toBe("by hand");
    expect(after.trials.map((t) => t.results.y)).toEqual([
      ...Array.from({ length: 11 }, (_, i) => 10 * i + (i % 7)),
      5,
    ]);
  });
  it("refuses a second run at the same study, a file that is none, and a call that is wrong", () => {
    const file = waitingStudy("held", 1);
    writeFileSync(join(folder, `${file}.run.lock`), String(process.pid));
    const { status, stderr } = run(file, "true");
    expect(status).toBe(1);
    expect(JSON.parse(stderr)).toMatchObject({ code: "run-held" });
    // One whose process is gone holds nothing.
    writeFileSync(join(folder, `${file}.run.lock`), "2147483646");
    expect(run(file, "true").status).toBe(0);
    expect(run("nowhere.json", "true").status).toBe(1);
    expect(run("-", "true").status).toBe(2);
    expect(run(file, "true", "--at-once", "0").status).toBe(2);
    expect(run(file, "true", "--timeout", "x").status).toBe(2);
    expect(spawnSync(process.execPath, [bundle, "run", file], { env }).status).toBe(2);
  });
  it("writes elsewhere where asked, and goes on from there", () => {
    const file = waitingStudy("from", 2);
    const before = readFileSync(join(folder, file), "utf8");
    const command = program("once", `if [ $a = 1 ]; then exit 1; fi\n${sums}`);
    report(file, command, "--out", "to.json");
    expect(readFileSync(join(folder, file), "utf8")).toBe(before);
    expect(studyIn("to.json").trials.map((t) => t.state)).toEqual(["done", "failed"]);
    expect(report(file, command, "--out", "to.json").ran).toEqual([]);
  });
});
