import { spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { beforeAll, describe, expect, it } from "vitest";
import writeXlsx from "write-excel-file/node";
import { callHere, type Outcome } from "./testing/call-here";

const folder = mkdtempSync(join(tmpdir(), "trialmoor-headless-"));
const bundle = join(process.cwd(), "dist/headless.mjs");

const env = { INIT_CWD: folder, TRIALMOOR_EXAMPLES: join(process.cwd(), "examples") };
/** As it is run: the bundle, in a process of its own. */
const started = (args: string[], input?: string): Outcome => {
  const { status, stdout, stderr } = spawnSync(process.execPath, [bundle, ...args], {
    cwd: folder,
    encoding: "utf8",
    env: { ...process.env, ...env },
    ...(input === undefined ? {} : { input }),
  });
  return { code: status, out: stdout, err: stderr };
};
/** What comes on standard input takes a process; other calls are made in this one. */
const run = async (args: string[], input?: string): Promise<Outcome> =>
  input === undefined ? callHere(args) : started(args, input);
const json = async (args: string[], input?: string) => {
  const { code, out, err } = await run([...args, "--json"], input);
  expect(err).toBe("");
  expect(code).toBe(0);
  return JSON.parse(out);
};
const refused = async (args: string[], input?: string): Promise<{ code: string; message: string; path: unknown[] }> => {
  const { code, out, err } = await run(args, input);
  expect([code, out]).toEqual([1, ""]);
  expect(err.trim().split("\n")).toHaveLength(1);
  return JSON.parse(err);
};
beforeAll(() => Object.assign(process.env, env));
const file = (name: string, study: object): string => {
  writeFileSync(join(folder, name), JSON.stringify({ format: "trialmoor-study", version: 1, title: "t", ...study }));
  return name;
};
const cont = (id: string) => ({ id, kind: "continuous", low: -1, high: 1 });
const three = { factors: ["a", "b", "c"].map(cont), responses: [{ id: "y", noise: 1, smallest: 2 }] };
/** y = 5 + 2a − b + ab in a full 2³, so every figure is exact. */
const run8 = {
  ...three,
  waves: [{ id: "w1" }],
  trials: Array.from({ length: 8 }, (_, i) => {
    const [a, b, c] = [0, 1, 2].map((j) => ((i >> j) & 1 ? 1 : -1));
    return {
      id: `t${i + 1}`,
      wave: "w1",
      state: "done",
      settings: { a, b, c },
      results: { y: 5 + 2 * a - b + a * b + (i % 2 === (i >> 2) % 2 ? 0.1 : -0.1) },
    };
  }),
};

describe("plan", () => {
  const study = file("three.json", three);
  it.each([
    ["factorial", [], 8],
    ["fraction", ["--trials", "4"], 4],
    ["plackett-burman", ["--trials", "12"], 12],
    ["plackett-burman", ["--trials", "24", "--fold-over"], 24],
    ["composite", ["--axial", "1.5", "--centre", "2"], 16],
    ["composite", ["--shrink"], 14],
    ["box-behnken", ["--centre", "3"], 15],
    ["array", ["--trials", "9"], 9],
    ["optimal", ["--trials", "7", "--terms", "main+2fi", "--starts", "5"], 7],
    ["least-aliasing", ["--trials", "6", "--keep-efficiency", "0.8", "--starts", "2"], 6],
  ])("%s %j makes %i trials in the contract's shape", async (family, options, n) => {
    const answer = await json(["plan", study, "--family", family, ...options]);
    expect(Object.keys(answer)).toEqual(expect.arrayContaining(["family", "seed", "recipe", "trials", "appraisal"]));
    expect(answer.family).toBe(family);
    expect(answer.seed).toBe(1);
    expect(answer.trials).toHaveLength(n);
    for (const t of answer.trials) {
      expect(Object.keys(t).sort()).toEqual(["coded", "id", "kind", "order", "settings", "standard", "wave"]);
      expect(Object.keys(t.settings)).toEqual(["a", "b", "c"]);
    }
    expect(answer.trials.map((t: { order: number }) => t.order)).toEqual(
      answer.trials.map((_: unknown, i: number) => i + 1),
    );
    for (const key of [
      "n",
      "p",
      "df",
      "efficiency",
      "resolution",
      "definingRelation",
      "wordLengthPattern",
      "chains",
      "alias",
      "correlation",
      "vif",
      "standardError",
      "power",
      "space",
      "map",
    ])
      expect(answer.appraisal).toHaveProperty(key);
  });

  it("drawn in, keeps a composite plan between low and high with its corners inside", async () => {
    const answer = await json(["plan", study, "--family", "composite", "--shrink"]);
    const coded = answer.trials.flatMap((t: { coded: Record<string, number> }) => Object.values(t.coded));
    expect(Math.max(...coded)).toBe(1);
    // Corners at 1/α with α = 8^¼.
    expect(coded.some((v: number) => Math.abs(v - 8 ** -0.25) < 1e-12)).toBe(true);
  });

  it("names the fractions it leaves out, and each can be run", async () => {
    const answer = await json(["plan", study, "--family", "fraction", "--trials", "4"]);
    expect(answer.recipe.generators).toBe("C=AB");
    expect(answer.missingFractions).toEqual(["C=-AB"]);
    const other = await json(["plan", study, "--family", "fraction", "--generators", answer.missingFractions[0]]);
    const key = (t: { settings: object }): string => JSON.stringify(t.settings);
    expect(new Set([...answer.trials.map(key), ...other.trials.map(key)]).size).toBe(8);
  });

  it("adopts into the file, whole, and goes on from there", async () => {
    const own = file("adopt.json", three);
    await json(["plan", own, "--family", "fraction", "--trials", "4", "--adopt"]);
    await json(["plan", own, "--family", "fraction", "--generators", "C=-AB", "--adopt"]);
    const stored = JSON.parse(readFileSync(join(folder, own), "utf8"));
    expect(stored.waves.map((w: { id: string }) => w.id)).toEqual(["w1", "w2"]);
    expect(stored.trials.map((t: { order: number }) => t.order)).toEqual([1, 2, 3, 4, 5, 6, 7, 8]);
    expect((await json(["appraise", own])).n).toBe(8);
  });

  it("reads from standard input and, adopting, prints the study", async () => {
    const text = readFileSync(join(folder, study), "utf8");
    const { code, out } = await run(["plan", "-", "--family", "factorial", "--adopt"], text);
    expect(code).toBe(0);
    expect(JSON.parse(out).trials).toHaveLength(8);
  });

  it("tells a wrong call (2) from a refused input (1)", async () => {
    expect((await run(["plan", study])).code).toBe(2);
    expect((await run(["plan", study, "--family", "fraction"])).code).toBe(2);
    expect((await run(["plan", study, "--family", "optimal"])).code).toBe(2);
    expect((await run(["plan", study, "--family", "factorial", "--trials", "many"])).code).toBe(2);
    expect((await run(["nothing"])).code).toBe(2);
    expect((await refused(["plan", study, "--family", "spiral"])).code).toBe("unknown-family");
    expect((await refused(["plan", study, "--family", "definitive"])).message).toContain("four to sixteen");
    expect((await refused(["plan", "missing.json", "--family", "factorial"])).code).toBe("no-file");
    expect((await refused(["plan", "-", "--family", "factorial"], "{")).code).toBeTruthy();
  });
});

describe("fit, predict, power", () => {
  const study = file("run8.json", run8);
  it("fits what is there: effects twice the coefficients, sums of squares exact", async () => {
    const fit = await json(["fit", study, "--response", "y", "--terms", "main+2fi"]);
    const coefficient = (term: string[]) =>
      fit.parameters.find((p: { term: string[] }) => p.term.join() === term.join());
    expect(coefficient([]).coefficient).toBeCloseTo(5, 12);
    expect(coefficient(["a"]).coefficient).toBeCloseTo(2, 12);
    expect(coefficient(["a"]).effect).toBeCloseTo(4, 12);
    expect(coefficient(["a", "b"]).coefficient).toBeCloseTo(1, 12);
    // The jitter is 0.1 times a·c: eight times its square.
    expect(coefficient(["a", "c"]).coefficient).toBeCloseTo(0.1, 12);
    const rows = fit.anova.filter((r: { source: string }) => r.source === "term");
    expect(rows.find((r: { term: string[] }) => r.term.join() === "a").ss).toBeCloseTo(32, 10);
    expect(fit.summary.residualDf).toBe(1);
  });

  it("reduces with its steps, and says what it does not know", async () => {
    const fit = await json([
      "fit",
      study,
      "--response",
      "y",
      "--terms",
      "main+2fi",
      "--reduce",
      "backward",
      "--by",
      "bic",
    ]);
    expect(fit.steps.length).toBeGreaterThan(0);
    expect((await refused(["fit", study, "--response", "z"])).message).toContain("the responses are y");
    expect((await refused(["predict", study, "--at", '{"a":0,"b":0,"c":0}'])).code).toBe("no-model");
    expect((await refused(["predict", study, "--at", "{a"])).message).toContain("not JSON");
  });

  it("solves whichever of effect, noise, power, replicates and α is left out, and they agree", async () => {
    const base = ["power", study, "--terms", "main"];
    const power = await json([...base, "--alpha", "0.05", "--effect", "2", "--noise", "1", "--replicates", "1"]);
    expect(power.solved).toBe("power");
    const p = power.power;
    expect(
      (await json([...base, "--alpha", "0.05", "--noise", "1", "--power", `${p}`, "--replicates", "1"])).effect,
    ).toBeCloseTo(2, 8);
    expect(
      (await json([...base, "--alpha", "0.05", "--effect", "2", "--power", `${p}`, "--replicates", "1"])).noise,
    ).toBeCloseTo(1, 8);
    const alpha = await json([...base, "--effect", "2", "--noise", "1", "--power", `${p}`, "--replicates", "1"]);
    expect([alpha.solved, Number(alpha.alpha.toFixed(8))]).toEqual(["alpha", 0.05]);
    expect(
      (await json([...base, "--alpha", "0.05", "--effect", "2", "--noise", "1", "--power", "0.99"])).replicates,
    ).toBeGreaterThan(1);
    expect((await run([...base, "--alpha", "0.05", "--effect", "2"])).code).toBe(2);
  });

  it("predicts and optimises from stored models; text is readable without --json", async () => {
    const modelled = file("modelled.json", {
      ...run8,
      responses: [{ id: "y", goal: { aim: "raise", low: 4, high: 9 } }],
      models: [{ response: "y", terms: [["a"], ["b"], ["a", "b"]] }],
    });
    const at = (await json(["predict", modelled, "--at", '{"a":1,"b":-1,"c":0}'])).responses.y;
    expect(at.mean).toBeCloseTo(7, 12);
    expect(at.meanInterval[0]).toBeLessThan(7);
    const best = await json(["setpoint", modelled, "--draws", "2000"]);
    expect(best.best.settings.a).toBeCloseTo(1, 6);
    expect(best.best.overall).toBeCloseTo((7 - 4) / 5, 6);
    const held = await json(["setpoint", modelled, "--hold", '{"a":-1}', "--draws", "2000"]);
    expect(held.best.settings.a).toBe(-1);
    const { code, out } = await run(["setpoint", modelled, "--draws", "2000"]);
    expect(code).toBe(0);
    expect(out).not.toMatch(/NaN|undefined|\[object/);
  });
});

describe("rig and example", () => {
  it("tells the whole job on a shipped example", async () => {
    const { code, out } = await run(["example", "raspberry-drying"]);
    expect(code).toBe(0);
    for (const part of ["1. Question", "2. Plan", "3. Trials", "4. Models"]) expect(out).toContain(part);
    expect(out).not.toMatch(/NaN|undefined/);
  });
  it("refuses a rig that does not fit the study", async () => {
    expect((await refused(["rig", "wool-line", file("norig.json", three)])).message.length).toBeGreaterThan(20);
    expect((await refused(["rig", "no-such", file("norig2.json", three)])).message.length).toBeGreaterThan(20);
  });
});

describe("subsets", () => {
  it("lists every model in the contract's shape and averages on request", async () => {
    const study = file("subsets.json", run8);
    const plain = await json(["subsets", study, "--response", "y", "--terms", "main"]);
    expect(plain.examined).toBe(8);
    expect(plain.average).toBeNull();
    expect(Object.keys(plain.models[0]).sort()).toEqual([
      "aicc",
      "bic",
      "k",
      "r2",
      "r2Adjusted",
      "r2Predicted",
      "rss",
      "terms",
      "weight",
    ]);
    const averaged = await json(["subsets", study, "--response", "y", "--terms", "main", "--average"]);
    expect(averaged.average.coefficients[0]).toHaveProperty("evidence");
    expect((await run(["subsets", study, "--response", "y"])).out).toContain("models");
    expect((await refused(["subsets", study, "--response", "z"])).message).toContain("the responses are y");
  });
});

describe("surface", () => {
  /** y = 10 + 4a − 2b − 3a² on nine points: level where a = 2/3, falling in b. */
  const bowl = {
    factors: ["a", "b"].map(cont),
    responses: [{ id: "y", goal: { aim: "raise", low: 0, high: 20 } }],
    waves: [{ id: "w" }],
    trials: Array.from({ length: 9 }, (_, i) => {
      const [a, b] = [(i % 3) - 1, Math.floor(i / 3) - 1];
      return {
        id: `t${i}`,
        wave: "w",
        state: "done",
        settings: { a, b },
        results: { y: 10 + 4 * a - 3 * a * a - b * b },
      };
    }),
    models: [{ response: "y", terms: [["a"], ["b"], ["a", "a"], ["b", "b"]] }],
  };
  it("answers in the contract's shape, with figures that follow from the polynomial", async () => {
    const answer = await json(["surface", file("bowl.json", bowl), "--response", "y"]);
    expect(answer.stationary.settings.a).toBeCloseTo(2 / 3, 9);
    expect(answer.stationary.settings.b).toBeCloseTo(0, 9);
    expect(answer.stationary.value).toBeCloseTo(10 + 4 / 3, 9);
    expect(answer.stationary.nature).toBe("maximum");
    expect(answer.stationary.inside).toBe(true);
    expect(answer.stationary.eigenvalues.map((v: number) => Math.round(v * 1e6) / 1e6)).toEqual([-3, -1]);
    expect(Object.keys(answer.ascent[0]).sort()).toEqual(
      expect.arrayContaining(["coded", "inside", "predicted", "settings", "step"]),
    );
    // Variances over ±1: 16/3 + 9·4/45 for a, 4/45 for b.
    const total = 16 / 3 + 36 / 45 + 4 / 45;
    expect(answer.importance[0].first).toBeCloseTo((16 / 3 + 36 / 45) / total, 9);
    expect((await run(["surface", "bowl.json", "--response", "y"])).out).toContain("maximum");
  });
  it("says that a model is missing, or a step is none", async () => {
    expect((await refused(["surface", file("nomodel.json", run8), "--response", "y"])).message).toContain(
      "no model yet",
    );
    expect((await refused(["surface", file("bowl2.json", bowl), "--response", "y", "--step", "-1"])).message).toContain(
      "above 0",
    );
  });
});

describe("follow", () => {
  const fraction = async (name: string): Promise<string> => {
    const path = file(name, { factors: ["a", "b", "c", "d"].map(cont), responses: [{ id: "y" }] });
    await run(["plan", path, "--family", "fraction", "--trials", "8", "--adopt"]);
    return path;
  };
  it("plans the wave with appraisals before and after, and adopts it", async () => {
    const path = await fraction("follow.json");
    const answer = await json(["follow", path, "--kind", "missing-fraction", "--terms", "main+2fi"]);
    expect([answer.before.n, answer.after.n, answer.trials.length]).toEqual([8, 16, 8]);
    expect(answer.before.chains.length).toBeGreaterThan(0);
    expect(answer.after.lost).toEqual([]);
    await run(["follow", path, "--kind", "missing-fraction", "--adopt"]);
    const study = JSON.parse(readFileSync(join(folder, path), "utf8"));
    expect(study.waves).toHaveLength(2);
    expect(study.trials.map((t: { order: number }) => t.order)).toEqual(Array.from({ length: 16 }, (_, i) => i + 1));
  });
  it("every kind runs or refuses in one sentence; a wrong call is told apart", async () => {
    const path = await fraction("kinds.json");
    for (const args of [
      ["foldover", "--factors", "A"],
      ["foldover", "--half"],
      ["axial"],
      ["centre"],
      ["repeat"],
      ["confirm", "--at", '{"a":0,"b":0,"c":0,"d":0}'],
    ])
      expect((await json(["follow", path, "--kind", ...args])).trials.length).toBeGreaterThan(1);
    expect(
      (await json(["follow", path, "--kind", "augment", "--trials", "5", "--terms", "main+2fi"])).after.lost,
    ).toEqual([]);
    expect((await json(["follow", path, "--kind", "carry", "--factors", "A,B"])).trials.length).toBeGreaterThan(3);
    expect((await refused(["follow", path, "--kind", "foldover"])).message).toContain("the same trials again");
    expect((await refused(["follow", path, "--kind", "ascent"])).message).toContain("model");
    expect((await refused(["follow", path, "--kind", "confirm"])).message).toContain("no setpoint");
    expect((await run(["follow", path, "--kind", "augment"])).code).toBe(2);
    expect((await run(["follow", path, "--kind", "sideways"])).code).toBe(2);
    expect((await run(["follow", path, "--kind", "axial"])).out).toContain("before");
  });
});

describe("a study from the command line", () => {
  it("says every fault of a study file at once, and that a whole one is whole", async () => {
    const faulty = file("faulty.json", {
      factors: [
        { id: "a", kind: "continuous", low: 2, high: 1 },
        { id: "a", kind: "continuous", low: 0, high: 1 },
      ],
      responses: [{ id: "y", importance: 9 }],
      trials: [{ id: "t1", wave: "nowhere", settings: { a: 0 } }],
    });
    const { code, out } = await run(["validate", faulty, "--json"]);
    expect(code).toBe(1);
    const { ok, faults } = JSON.parse(out);
    expect(ok).toBe(false);
    const places = faults.map((f: { path: unknown[] }) => f.path.slice(0, 2).join("."));
    expect(new Set(places.map((p: string) => p.split(".")[0])).size).toBeGreaterThan(1);
    for (const fault of faults) expect(fault.message).toMatch(/^\S.+\.$/);
    const told = (await run(["validate", faulty])).out.trim().split("\n");
    expect(told).toHaveLength(faults.length);
    expect(await json(["validate", file("whole.json", run8)])).toEqual({ ok: true, faults: [] });
  });
  it("carries the ledger out and back by its trial ids, and writes nothing on a dry run", async () => {
    const study = file("ledger.json", run8);
    const csv = (await run(["export", study, "--format", "csv"])).out;
    const [head, ...rows] = csv.trim().split(/\r?\n/);
    expect(head.split(",").at(-1)).toBe("trial id");
    // Another order and one result changed: matched by id, one value differs.
    const column = head.split(",").indexOf("y");
    const changed = rows.toReversed().map((row) => {
      const cells = row.split(",");
      if (cells.at(-1) === "t3") cells[column] = "12.5";
      return cells.join(",");
    });
    writeFileSync(join(folder, "back.csv"), [head, ...changed].join("\n"));
    const before = readFileSync(join(folder, study), "utf8");
    const dry = await json(["import", study, "back.csv", "--dry-run"]);
    expect(dry.problems).toEqual([]);
    expect(dry.changes).toHaveLength(1);
    expect(JSON.stringify(dry.changes)).toContain("12.5");
    expect(readFileSync(join(folder, study), "utf8")).toBe(before);
    await json(["import", study, "back.csv", "--out", "taken.json"]);
    const taken = JSON.parse(readFileSync(join(folder, "taken.json"), "utf8"));
    expect(taken.trials.map((t: { results: { y: number } }) => t.results.y)).toEqual(
      run8.trials.map((t) => (t.id === "t3" ? 12.5 : t.results.y)),
    );
    const whole = JSON.parse((await run(["export", "taken.json", "--format", "json"])).out);
    expect(whole.trials).toEqual(taken.trials);
  });
  it("reads results from a workbook: the sheet asked for, what is odd said, repeats in rows where that is asked", async () => {
    const study = file("book.json", run8);
    const rows = [
      ["trial", "y"],
      [1, 31.5],
      [1, 31.7],
      [2, new Date(Date.UTC(2026, 0, 5))],
    ].map((r) => r.map((c) => (c instanceof Date ? { value: c, type: Date, format: "dd/mm/yyyy" } : c)));
    const book = await writeXlsx([
      { data: [["Cover"]], sheet: "Cover" },
      { data: rows, sheet: "Day 1" },
    ]).toBuffer();
    writeFileSync(join(folder, "results.xlsx"), book);
    const asked = ["import", study, "results.xlsx", "--sheet", "Day 1", "--dry-run"];
    const dry = await json(asked);
    expect(dry.remarks).toEqual([
      "Read: the sheet “Day 1”; beside it is “Cover”.",
      "1 cell holds a date and was read as year-month-day; a number that a spreadsheet made a date of must be typed anew.",
    ]);
    expect(dry).toMatchObject({ again: 1, changes: [{ to: 31.5 }] });
    expect(dry.problems[1]).toContain("“2026-01-05” in y is not a number");
    expect((await json([...asked, "--rows-are-repeats"])).changes).toMatchObject([{ to: [31.5, 31.7] }]);
    expect(await refused(["import", study, "results.xlsx", "--sheet", "Day 2"])).toMatchObject({ code: "no-sheet" });
    // The whole study as a workbook; brought back it changes nothing.
    await run(["export", study, "--format", "xlsx", "--out", "whole.xlsx"]);
    expect(await json(["import", study, "whole.xlsx", "--dry-run"])).toMatchObject({ changes: [], problems: [] });
    writeFileSync(join(folder, "old.xls"), Buffer.from([0xd0, 0xcf, 0x11, 0xe0]));
    expect(await refused(["import", study, "old.xls"])).toMatchObject({ code: "workbook-locked" });
  });
  it("keeps a model with fit --store, a setpoint with --choose, and judges its confirmation", async () => {
    const goal = { aim: "raise", low: 4, high: 9 };
    const study = file("way.json", { ...run8, responses: [{ id: "y", goal }] });
    const terms = file("terms-ab.json", []);
    writeFileSync(join(folder, terms), JSON.stringify([["a"], ["b"], ["a", "b"]]));
    const fit = await json(["fit", study, "--response", "y", "--terms", terms, "--store"]);
    // ±0.1 in eight runs, orthogonal to the model: RSS 0.08 on 4 degrees of freedom.
    expect(fit.summary.s).toBeCloseTo(Math.sqrt(0.02), 12);
    for (const same of ["A,B,AB", '["A","B","AB"]', '[["a"],["b"],["a","b"]]', "a, b, A×B"])
      expect((await json(["fit", study, "--response", "y", "--terms", same])).parameters).toEqual(fit.parameters);
    const kept = () => JSON.parse(readFileSync(join(folder, study), "utf8"));
    expect(kept().models).toMatchObject([{ response: "y", terms: [["a"], ["b"], ["a", "b"]] }]);
    const found = await json(["setpoint", study, "--draws", "500", "--choose"]);
    expect(kept().setpoint.settings).toEqual(found.settable.settings);
    // The optimum of 5 + 2a − b + ab is at a = 1, where b no longer matters: 7 all along the edge.
    expect(found.best.settings.a).toBeCloseTo(1, 6);
    expect((await refused(["verdict", study])).code).toBe("no-confirmation");
    await json(["follow", study, "--kind", "confirm", "--at", '{"a":1,"b":-1,"c":0}', "--trials", "2", "--adopt"]);
    const planned = kept();
    planned.trials.slice(-2).forEach((t: { state: string; results: object }, i: number) => {
      t.state = "done";
      t.results = { y: i === 0 ? 7.25 : 7.35 };
    });
    const run2 = file("confirmed.json", planned);
    const verdict = (await json(["verdict", run2])).responses.y;
    expect(verdict.mean).toBeCloseTo(7.3, 12);
    expect(verdict.predicted).toBeCloseTo(7, 12);
    // 7 ± t(0.975; 4)·√(0.02·(4/8 + 1/2)), t = 2.7764451 (Fisher & Yates, table III).
    const half = 2.7764451 * Math.sqrt(0.02);
    expect(verdict.interval[0]).toBeCloseTo(7 - half, 6);
    expect(verdict.interval[1]).toBeCloseTo(7 + half, 6);
    expect(verdict.agrees).toBe(true);
  });
  it("prints the same text twice for the same seed, and another setpoint file where asked", async () => {
    const study = file("twice.json", { ...run8, models: [{ response: "y", terms: [["a"], ["b"]] }] });
    const goalless = await refused(["setpoint", study]);
    expect(goalless).toMatchObject({ code: "no-goals" });
    expect(goalless.message).not.toMatch(/\bon (Question|Model|Plan|Trials|Setpoint)\b/);
    const raised = file("raised.json", {
      ...run8,
      responses: [{ id: "y", goal: { aim: "raise", low: 4, high: 9 } }],
      models: [{ response: "y", terms: [["a"], ["b"]] }],
    });
    const one = await run(["setpoint", raised, "--draws", "500", "--seed", "4"]);
    expect((await run(["setpoint", raised, "--draws", "500", "--seed", "4"])).out).toBe(one.out);
    const before = readFileSync(join(folder, raised), "utf8");
    await run(["setpoint", raised, "--draws", "500", "--choose", "--out", "chosen.json"]);
    expect(readFileSync(join(folder, raised), "utf8")).toBe(before);
    expect(JSON.parse(readFileSync(join(folder, "chosen.json"), "utf8")).setpoint.settings).toHaveProperty("a");
  });
  it.each<[string[], RegExp]>([
    [["fit", "ledger.json", "--response", "y", "--by", "aicc"], /by/],
    [["plan", "ledger.json", "--family", "composite", "--generators", "C=AB"], /generators/],
    [["appraise", "ledger.json", "--unheard-of"], /unheard-of/],
  ])("refuses an option that does not apply: %j", async (args, named) => {
    const { code, out, err } = await run(args);
    expect([1, 2]).toContain(code);
    expect(out).toBe("");
    expect(err).toMatch(named);
  });
});

describe("a study from a sheet", () => {
  const sheet = [
    "Trial;Heat (°C);Heat coded;Line;Height 1 (mm);Height 2 (mm);Mass [g];Remark",
    "2;60;1;east;5,1;5,3;12,4;",
    "1;40;-1;east;4,0;4,2;10,9;first of the day",
    "3;60;1;west;5,6;5,5;13,0;",
    "4;40;-1;west;4,4;;11,7;stopped once",
  ].join("\n");
  writeFileSync(join(folder, "Loft heights.csv"), sheet);
  it("is made with its roles guessed, printed and written", async () => {
    const made = await json(["import", "Loft heights.csv", "--out", "loft.json"]);
    expect(made.columns.map((c: { role: string }) => c.role)).toEqual([
      ...["order", "factor", "left-out", "factor", "response", "response", "response", "note"],
    ]);
    expect(made).toMatchObject({ factors: 2, responses: 2, trials: 4, withResults: 4, problems: [] });
    expect(made.columns[1]).toMatchObject({ name: "Heat", unit: "°C", low: 40, high: 60, step: 1 });
    const study = JSON.parse(readFileSync(join(folder, "loft.json"), "utf8"));
    expect(study.title).toBe("Loft heights");
    expect(study.trials.map((t: { results: object }) => Object.values(t.results))).toEqual([
      [[4, 4.2], 10.9],
      [[5.1, 5.3], 12.4],
      [[5.6, 5.5], 13],
      [[4.4, null], 11.7],
    ]);
    expect((await run(["import", "Loft heights.csv", "--dry-run"])).out).toContain(
      "Heat coded: left-out (It is Heat in coded units, −1 at low and +1 at high)",
    );
  });
  it("roles are set by a file; what it cannot mean is refused with what it can", async () => {
    writeFileSync(join(folder, "roles.json"), JSON.stringify({ "Mass [g]": "covariate", Remark: "left-out" }));
    const made = await json([
      "import",
      "Loft heights.csv",
      "--out",
      "set.json",
      "--roles",
      "roles.json",
      "--title",
      "Set",
    ]);
    expect(made).toMatchObject({ factors: 2, responses: 1 });
    const study = JSON.parse(readFileSync(join(folder, "set.json"), "utf8"));
    expect([study.title, study.covariates[0].name, study.trials[0].covariates]).toEqual([
      "Set",
      "Mass",
      { [study.covariates[0].id]: 10.9 },
    ]);
    for (const [roles, message] of [
      ['{"Weight":"note"}', /The sheet has no column “Weight”; its columns are Trial, Heat \(°C\)/],
      ['{"Remark":"knob"}', /“knob” is nothing that a column can be \(Remark\); it can be factor, response/],
      ["[1]", /does not say what columns are/],
      ["{", /not JSON/],
    ] as const) {
      writeFileSync(join(folder, "wrong.json"), roles);
      const { message: said } = await refused([
        "import",
        "Loft heights.csv",
        "--out",
        "no.json",
        "--roles",
        "wrong.json",
      ]);
      expect(said).toMatch(message);
    }
    expect((await refused(["import", "nowhere.csv", "--out", "no.json"])).code).toBe("no-file");
  });
  it("several rows of a trial become its repeats where that is said", async () => {
    const long = [
      "Trial,Heat,Height",
      ...[1, 2, 3, 4].flatMap((t) => [0, 1].map((i) => `${t},${40 + 20 * (t % 2)},${t}.${i}5`)),
    ];
    writeFileSync(join(folder, "long.csv"), long.join("\n"));
    expect((await run(["import", "long.csv", "--dry-run"])).out).toContain(
      "8 rows have 4 trial numbers; take them as repeats with --rows-are-repeats",
    );
    expect((await json(["import", "long.csv", "--out", "long.json", "--rows-are-repeats"])).trials).toBe(4);
    const { trials } = JSON.parse(readFileSync(join(folder, "long.json"), "utf8"));
    expect(trials.map((t: { results: object }) => Object.values(t.results)[0])).toEqual(
      [1, 2, 3, 4].map((t) => [t + 0.05, t + 0.15]),
    );
  });
  it("needs a place to go, and no roles where there is a study already", async () => {
    expect((await run(["import", "Loft heights.csv"])).code).toBe(2);
    expect((await run(["import", "loft.json", "Loft heights.csv", "--roles", "roles.json"])).code).toBe(2);
  });
});
