/**
 * False alarms of the checks: how often each has a raw p below 0.05, and any an adjusted one, over studies in which
 * nothing is wrong; and how often a spread tripled at one level is seen.
 * Run: npx tsx bench/alarms.ts [studies] [part of a kind's name]
 */
import { makePlan, parseStudy, type Study, type Term, termSet } from "../src/core";
import { runChecks } from "../src/core/model/checklist";
import { fitModel } from "../src/core/model/fit";
import { seededRandom } from "../src/core/numerics/random";
import { corners, plainStudy, withTrials } from "../src/core/testing/studies";

const COUNT = Number(process.argv[2] ?? 10_000);
const ONLY = process.argv[3] ?? "";
const random = seededRandom(2026);

interface Kind {
  make(): { study: Study; response: string; terms: Term[] };
}

const settingsOf = (family: "composite" | "plackett-burman", k: number, more: object = {}) =>
  makePlan(plainStudy(k), { family, seed: 3, ...more }).trials.map((t) => t.settings);
const sixteen = corners(4);
const composite = settingsOf("composite", 3, { centre: 4 });
const screen = settingsOf("plackett-burman", 7, { trials: 12 });
const noisy = (n: number): number[] => Array.from({ length: n }, () => 50 + random.normal());

const KINDS: Record<string, Kind> = {
  "2⁴ with pairs": {
    make: () => ({
      study: withTrials(plainStudy(4), sixteen, noisy(16)),
      response: "y",
      terms: termSet(plainStudy(4), "main+2fi"),
    }),
  },
  "quadratic composite": {
    make: () => ({
      study: withTrials(plainStudy(3), composite, noisy(composite.length)),
      response: "y",
      terms: termSet(plainStudy(3), "quadratic"),
    }),
  },
  "Plackett–Burman with mains": {
    make: () => ({
      study: withTrials(plainStudy(7), screen, noisy(12)),
      response: "y",
      terms: termSet(plainStudy(7), "main"),
    }),
  },
  "two waves": {
    make: () => ({
      study: withTrials(plainStudy(3), [...corners(3), ...corners(3)], noisy(16), {
        wave: (i) => (i < 8 ? "w1" : "w2"),
      }),
      response: "y",
      terms: termSet(plainStudy(3), "main+2fi"),
    }),
  },
  "spread of cells with 1 and 7 df": {
    make: () => {
      const points = [...corners(3), ...corners(3)];
      const base = plainStudy(3, {
        responses: [{ id: "y" }, { id: "s", name: "spread", spread: { of: "y", from: "repeats" } }],
      });
      const study = parseStudy({
        ...base,
        waves: [{ id: "w" }],
        trials: points.map((settings, i) => ({
          id: `t${i}`,
          wave: "w",
          state: "done",
          settings,
          results: { y: noisy(settings.b === 1 ? 8 : 2) },
        })),
      });
      return { study, response: "s", terms: termSet(study, "main") };
    },
  },
};

for (const [name, { make }] of Object.entries(KINDS).filter(([n]) => n.includes(ONLY))) {
  const raw = new Map<string, number>();
  let any = 0;
  for (let i = 0; i < COUNT; i++) {
    const { study, response, terms } = make();
    const checks = runChecks(study, fitModel(study, response, { terms }));
    let alarm = false;
    for (const c of checks) {
      if (c.adjusted === null) continue;
      raw.set(c.id, (raw.get(c.id) ?? 0) + ((c.p ?? 1) < 0.05 ? 1 : 0));
      alarm ||= c.alarm;
    }
    if (alarm) any++;
  }
  const share = (n: number): string => `${((100 * n) / COUNT).toFixed(2)} %`;
  console.log(`${name}: any alarm ${share(any)}; ${[...raw].map(([id, n]) => `${id} ${share(n)}`).join(", ")}`);
}

let seen = 0;
const powered = Math.min(COUNT, 2000);
for (let i = 0; i < powered; i++) {
  const points = [...sixteen, ...sixteen];
  const study = withTrials(
    plainStudy(4),
    points,
    points.map((p) => 50 + (p.a === 1 ? 3 : 1) * random.normal()),
  );
  const checks = runChecks(study, fitModel(study, "y", { terms: termSet(study, "main") }));
  if ((checks.find((c) => c.id === "spread-factor")?.p ?? 1) < 0.05) seen++;
}
console.log(`2⁴ × 2, spread tripled at one level: seen in ${((100 * seen) / powered).toFixed(1)} %`);
