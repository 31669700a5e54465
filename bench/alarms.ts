/**
 * False alarms of the checks: how often each has a raw p below 0.05, and any an adjusted one, over studies in which
 * nothing is wrong; and how often what is wrong is seen: a spread tripled at one level, a trial five standard
 * deviations off, a drift over three waves.
 * Run: npx tsx bench/alarms.ts [studies] [part of a kind's name]
 */

import { runChecks } from "../src/core/model/checklist";
import { fitModel } from "../src/core/model/fit";
import { seededRandom } from "../src/core/numerics/random";
import { makePlan } from "../src/core/plans";
import { parseStudy, type Study, type Term, termSet } from "../src/core/study";
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
  "three waves with mains": {
    make: () => ({
      study: withTrials(
        plainStudy(3),
        [0, 1, 2].flatMap(() => random.shuffled(corners(3))),
        noisy(24),
        {
          wave: (i) => `w${Math.floor(i / 8) + 1}`,
        },
      ),
      response: "y",
      terms: termSet(plainStudy(3), "main"),
    }),
  },
  "2⁴ with pairs and three effects": {
    make: () => ({
      study: withTrials(
        plainStudy(4),
        sixteen,
        sixteen.map((p) => 50 + 2 * (p.a as number) - 2 * (p.b as number) + 1.5 * (p.c as number) + random.normal()),
      ),
      response: "y",
      terms: termSet(plainStudy(4), "main+2fi"),
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

/** What is wrong, and the check that should alarm. */
const WRONG: Record<string, { check: string; make(): { study: Study; terms: Term[] } }> = {
  "2⁴ × 2 with mains, spread tripled at one level": {
    check: "spread-factor",
    make() {
      const points = [...sixteen, ...sixteen];
      const y = points.map((p) => 50 + (p.a === 1 ? 3 : 1) * random.normal());
      return { study: withTrials(plainStudy(4), points, y), terms: termSet(plainStudy(4), "main") };
    },
  },
  "2⁴ with pairs, spread tripled at one level": {
    check: "spread-factor",
    make() {
      const y = sixteen.map((p) => 50 + (p.a === 1 ? 3 : 1) * random.normal());
      return { study: withTrials(plainStudy(4), sixteen, y), terms: termSet(plainStudy(4), "main+2fi") };
    },
  },
  "2⁴ with 11 terms, a trial 5 σ off": {
    check: "single",
    make() {
      const y = noisy(16);
      y[random.below(16)] += 5;
      const terms = [...termSet(plainStudy(4), "main+2fi"), ["a", "b", "c"]];
      return { study: withTrials(plainStudy(4), sixteen, y), terms };
    },
  },
  "2⁴ with pairs and three effects, a trial 5 σ off": {
    check: "single",
    make() {
      const y = sixteen.map(
        (p) => 50 + 2 * (p.a as number) - 2 * (p.b as number) + 1.5 * (p.c as number) + random.normal(),
      );
      y[random.below(16)] += 5;
      return { study: withTrials(plainStudy(4), sixteen, y), terms: termSet(plainStudy(4), "main+2fi") };
    },
  },
  "three waves of 2³ with mains, a drift of 4 σ over all": {
    check: "order",
    make() {
      const points = [0, 1, 2].flatMap(() => random.shuffled(corners(3)));
      const y = points.map((_, i) => 50 + (4 * i) / 23 + random.normal());
      const study = withTrials(plainStudy(3), points, y, { wave: (i) => `w${Math.floor(i / 8) + 1}` });
      return { study, terms: termSet(plainStudy(3), "main") };
    },
  },
  "three waves of 2³ with mains, steps of 2 σ between them and no drift": {
    check: "order",
    make() {
      const points = [0, 1, 2].flatMap(() => random.shuffled(corners(3)));
      const steps = [0, 1, 2].map(() => 2 * random.normal());
      const y = points.map((_, i) => 50 + steps[Math.floor(i / 8)] + random.normal());
      const study = withTrials(plainStudy(3), points, y, { wave: (i) => `w${Math.floor(i / 8) + 1}` });
      return { study, terms: termSet(plainStudy(3), "main") };
    },
  },
};
const powered = Math.min(COUNT, 2000);
for (const [name, { check, make }] of Object.entries(WRONG).filter(([n]) => n.includes(ONLY))) {
  let seen = 0;
  let alarms = 0;
  for (let i = 0; i < powered; i++) {
    const { study, terms } = make();
    const found = runChecks(study, fitModel(study, "y", { terms })).find((c) => c.id === check);
    if ((found?.p ?? 1) < 0.05) seen++;
    if (found?.alarm) alarms++;
  }
  const share = (n: number): string => `${((100 * n) / powered).toFixed(1)} %`;
  console.log(`${name}: ${check} below 5 % by itself ${share(seen)}, alarm ${share(alarms)}`);
}
