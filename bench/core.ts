/** Speed of the core, as medians of repeated runs. */
import { readFileSync } from "node:fs";
import { readStudyFile } from "../src/core/formats";
import { fitModel, runChecks } from "../src/core/model";
import { effectLadder } from "../src/core/model/ladder";
import { seededRandom } from "../src/core/numerics/random";
import { finish } from "../src/core/questions";
import { searchSetpoint, setpointProblem } from "../src/core/setpoint";
import type { Study, Term } from "../src/core/study";
import { plainStudy, withTrials } from "../src/core/testing/studies";

const median = (values: number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];
const time = (work: () => unknown, rounds: number): number =>
  median(
    Array.from({ length: rounds }, () => {
      const start = performance.now();
      work();
      return performance.now() - start;
    }),
  );
const row = (name: string, value: string, wanted: string): void =>
  console.log(`${name.padEnd(58)} ${value.padStart(14)}   ${wanted}`);

const random = seededRandom(1);
const study: Study = withTrials(
  plainStudy(8),
  Array.from({ length: 100 }, () =>
    Object.fromEntries("abcdefgh".split("").map((id) => [id, 2 * random.uniform() - 1])),
  ),
  Array.from({ length: 100 }, () => random.normal()),
);
const ids = study.factors.map((f) => f.id);
const terms: Term[] = [
  ...ids.map((id): Term => [id]),
  ...ids.flatMap((a, i) => ids.slice(i + 1).map((b): Term => [a, b])),
].slice(0, 30);
row(
  "fit with all figures, 100 trials × 30 terms",
  `${time(() => fitModel(study, "y", { terms }), 30).toFixed(1)} ms`,
  "≤ 10 ms",
);
const fit = fitModel(study, "y", { terms });
row(
  "checks of that fit, 9,999 permutations among them",
  `${time(() => runChecks(study, fit), 5).toFixed(0)} ms`,
  "worked out on demand",
);

// Two factors hard to change, kept for five trials at a time.
const oven: Study = {
  ...study,
  factors: study.factors.map((f) => (f.id < "c" ? { ...f, change: "hard" } : f)),
  trials: study.trials.map((t, i) => {
    const { a, b } = study.trials[i - (i % 5)].settings;
    return { ...t, setup: Math.floor(i / 5) + 1, settings: { ...t.settings, a, b } };
  }),
};
row(
  "the same in 20 set-ups, with the ladder",
  `${time(() => effectLadder(oven, fitModel({ ...oven, trials: [...oven.trials] }, "y", { terms })), 20).toFixed(0)} ms`,
  "≤ 80 ms",
);

const wool = readStudyFile(readFileSync("examples/wool-scouring.trialmoor.json", "utf8"));
const problem = setpointProblem(wool);
row(
  "setpoint search, 4 responses, 6 factors, one category",
  `${time(() => finish(searchSetpoint(problem, {})), 3).toFixed(0)} ms`,
  "≤ 1,500 ms",
);
const found = Array.from(
  { length: 20 },
  (_, i) => finish(searchSetpoint(problem, { seed: i + 1, draws: 100 })).best.overall,
);
row(
  "spread of overall desirability over 20 seeds",
  (Math.max(...found) - Math.min(...found)).toExponential(1),
  "< 5e-4",
);
