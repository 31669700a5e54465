// The setpoint search against a dense reference on random studies, and what the chance of meeting limits costs.
import { finish } from "@/core/questions";
import { chanceOf, type SetpointProblem, searchSetpoint, setpointProblem } from "@/core/setpoint";
import {
  allowed,
  decode,
  type Goal,
  isNumeric,
  parseStudy,
  type Settings,
  type Study,
  type Term,
  termSet,
} from "@/core/study";

const STUDIES = Number(process.env.BENCH_STUDIES ?? 200);
const row = (name: string, value: string, wanted: string): void =>
  console.log(`${name.padEnd(58)} ${value.padStart(14)}   ${wanted}`);

/** A small generator of its own (mulberry32), so that the studies do not depend on the core's. */
function random(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A study of 3–8 factors, 2–4 responses of quadratic shape, with a limit and a category now and then. */
function makeStudy(seed: number): Study {
  const u = random(seed);
  const k = 3 + Math.floor(u() * 6);
  const withCategory = u() < 0.5;
  const numeric = withCategory ? k - 1 : k;
  const ids = Array.from({ length: numeric }, (_, i) => "abcdefgh"[i]);
  const factors = [
    ...ids.map((id) => ({ id, kind: "continuous" as const, low: -1, high: 1, ...(u() < 0.5 ? { step: 0.05 } : {}) })),
    ...(withCategory
      ? [{ id: "lot", kind: "categorical" as const, levels: u() < 0.5 ? ["p", "q"] : ["p", "q", "r"] }]
      : []),
  ];
  const levels = withCategory ? (factors[factors.length - 1] as { levels: string[] }).levels : [""];
  const limits =
    u() < 0.5
      ? [
          {
            terms: { a: 1, b: 1, ...(numeric > 2 ? { c: u() < 0.5 ? 1 : -1 } : {}) },
            at: "most" as const,
            bound: 0.6 + u(),
          },
        ]
      : [];
  const settings: Settings[] = Array.from({ length: 90 }, () => ({
    ...Object.fromEntries(ids.map((id) => [id, 2 * u() - 1])),
    ...(withCategory ? { lot: levels[Math.floor(u() * levels.length)] } : {}),
  }));
  const responses = Array.from({ length: 2 + Math.floor(u() * 3) }, (_, r) => {
    const linear = ids.map(() => 4 * (u() - 0.5));
    const square = ids.map(() => 3 * (u() - 0.6));
    const pair = ids.map(() => 2 * (u() - 0.5));
    const shift = levels.map(() => u() - 0.5);
    const value = (s: Settings): number =>
      ids.reduce(
        (t, id, i) => {
          const x = s[id] as number;
          return t + linear[i] * x + square[i] * x * x + pair[i] * x * (s[ids[(i + 1) % numeric]] as number);
        },
        shift[levels.indexOf(String(s.lot ?? ""))] ?? 0,
      );
    const values = settings.map(value);
    const sorted = [...values].sort((p, q) => p - q);
    const at = (q: number): number => sorted[Math.floor(q * (sorted.length - 1))];
    const pick = u();
    const goal: Goal =
      pick < 0.4
        ? { aim: "raise", low: at(0.3), high: at(0.98) }
        : pick < 0.7
          ? { aim: "lower", low: at(0.02), high: at(0.7) }
          : { aim: "within", low: at(0.2), target: at(0.5), high: at(0.8) };
    return {
      id: `y${r}`,
      goal,
      importance: 1 + Math.floor(u() * 4),
      values: values.map((v) => v + 0.05 * (u() - 0.5)),
    };
  });
  const bare = parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "bench",
    factors,
    region: { limits, forbidden: [] },
  });
  const terms: Term[] = termSet(bare, "quadratic");
  return parseStudy({
    ...bare,
    responses: responses.map(({ values: _values, ...r }) => r),
    waves: [{ id: "w" }],
    trials: settings.map((s, i) => ({
      id: `t${i}`,
      wave: "w",
      state: "done",
      settings: s,
      results: Object.fromEntries(responses.map((r) => [r.id, r.values[i]])),
    })),
    models: responses.map((r) => ({ response: r.id, terms })),
  });
}

/** Best overall desirability by brute force: sixty thousand places, the best sixty of them climbed along every axis. */
function reference(problem: SetpointProblem, seed: number): number {
  const u = random(seed + 77);
  const { factors } = problem.study;
  const draw = (): Settings =>
    Object.fromEntries(
      factors.map((f) => [f.id, isNumeric(f) ? decode(f, 2 * u() - 1) : f.levels[Math.floor(u() * f.levels.length)]]),
    );
  const found: { s: Settings; d: number }[] = [];
  for (let i = 0; i < 60_000; i++) {
    const s = draw();
    if (allowed(problem.study, s)) found.push({ s, d: problem.overall(s) });
  }
  found.sort((p, q) => q.d - p.d);
  let best = found[0]?.d ?? 0;
  for (const start of found.slice(0, 60)) {
    let { s, d } = start;
    for (let step = 0.25; step > 1e-5; step *= 0.6)
      for (let moved = true; moved; ) {
        moved = false;
        for (let tries = 0; tries < 30; tries++) {
          const next = { ...s };
          for (const f of factors)
            if (isNumeric(f) && u() < 0.6)
              next[f.id] = Math.max(-1, Math.min(1, (s[f.id] as number) + step * (2 * u() - 1)));
          if (!allowed(problem.study, next)) continue;
          const v = problem.overall(next);
          if (v > d + 1e-9) {
            s = next;
            d = v;
            moved = true;
          }
        }
      }
    best = Math.max(best, d);
  }
  return best;
}

const times: number[] = [];
let worst = 0;
let misses = 0;
const only = process.env.BENCH_ONLY?.split(",").map((n) => Number(n) - 1000);
for (const i of only ?? Array.from({ length: STUDIES }, (_, n) => n)) {
  const problem = setpointProblem(makeStudy(1000 + i));
  const start = performance.now();
  const result = finish(searchSetpoint(problem, { draws: 100, seed: 1 }));
  times.push(performance.now() - start);
  const behind = reference(problem, 1000 + i) - result.best.overall;
  worst = Math.max(worst, behind);
  if (behind > 0.0005) {
    misses++;
    if (process.env.BENCH_TELL)
      console.log(
        `  study ${1000 + i}: behind ${behind.toFixed(5)}, ${problem.study.factors.length} factors, ${problem.study.region.limits.length} limits`,
      );
  }
}
times.sort((a, b) => a - b);
row(
  `setpoint search on ${STUDIES} random studies, median`,
  `${times[Math.floor(times.length / 2)].toFixed(0)} ms`,
  "≤ 500 ms",
);
row("… the slowest", `${times[times.length - 1].toFixed(0)} ms`, "≤ 3,000 ms");
row("… farthest behind a dense search, overall desirability", worst.toFixed(5), "≤ 0.0005");
row("… studies more than 0.0005 behind", String(misses), "0");

// Where the chance is about one half its standard error is largest: found on the way from the best place to a corner.
const half = [1006, 1001, 1010, 1020, 1033].map((seed) => {
  const study = makeStudy(seed);
  const { factors } = study;
  const problem = setpointProblem(
    parseStudy({ ...study, factors: factors.map((f) => (isNumeric(f) ? { ...f, tolerance: 0.02 } : f)) }),
  );
  const best = finish(searchSetpoint(problem, { draws: 100, seed: 1 })).best.settings;
  const along = (u: number): Settings =>
    Object.fromEntries(
      factors.map((f) => {
        const from = best[f.id] as number;
        return [f.id, isNumeric(f) ? (1 - u) * from + u * (from > 0 ? -1 : 1) : best[f.id]];
      }),
    );
  let [near, far] = [0, 1];
  for (let i = 0; i < 14; i++) {
    const u = (near + far) / 2;
    if ((finish(chanceOf(problem, along(u), { draws: 4000, seed: 1 })).together ?? 0) > 0.5) near = u;
    else far = u;
  }
  const runs = Array.from({ length: 9 }, (_, i) => {
    const start = performance.now();
    const chance = finish(chanceOf(problem, along(near), { draws: 112_000, seed: i + 1 }));
    return { ms: performance.now() - start, chance: chance.together ?? 0, error: chance.standardError ?? 0 };
  });
  const mean = runs.reduce((t, r) => t + r.chance, 0) / runs.length;
  return {
    ms: runs.map((r) => r.ms).sort((p, q) => p - q)[4],
    error: Math.sqrt(runs.reduce((t, r) => t + r.error ** 2, 0) / runs.length),
    spread: Math.sqrt(runs.reduce((t, r) => t + (r.chance - mean) ** 2, 0) / (runs.length - 1)),
  };
});
row(
  "chance near one half, 112,000 draws with setting errors, slowest of 5",
  `${Math.max(...half.map((h) => h.ms)).toFixed(0)} ms`,
  "≤ 300 ms",
);
row("… largest standard error told", Math.max(...half.map((h) => h.error)).toFixed(5), "≤ 0.0015");
row("… largest spread between nine seeds", Math.max(...half.map((h) => h.spread)).toFixed(5), "about the same");
