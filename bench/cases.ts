/**
 * What a person waits for, each case by itself: the same file is bundled against two states of the code, so that it
 * uses only names that have stood for long. Prints its medians in milliseconds as JSON.
 */
import { readFileSync } from "node:fs";
import { readStudyFile } from "../src/core/formats";
import { fitModel, searchSubsets } from "../src/core/model";
import { effectLadder } from "../src/core/model/ladder";
import { seededRandom } from "../src/core/numerics/random";
import { makePlan } from "../src/core/plans";
import { finish } from "../src/core/questions";
import { searchSetpoint, setpointProblem } from "../src/core/setpoint";
import { type Term, termSet } from "../src/core/study";
import { plainStudy, withTrials } from "../src/core/testing/studies";
import { memo } from "./memo";

const median = (values: number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];
const random = seededRandom(1);
const study = (k: number, n: number) =>
  withTrials(
    plainStudy(k),
    Array.from({ length: n }, () =>
      Object.fromEntries(
        "abcdefgh"
          .slice(0, k)
          .split("")
          .map((id) => [id, 2 * random.uniform() - 1]),
      ),
    ),
    Array.from({ length: n }, () => random.normal()),
  );
const hundred = study(8, 100);
const terms = termSet(plainStudy(8), "main+2fi").slice(0, 30);
const sixty = study(6, 60);
const wool = readStudyFile(readFileSync("examples/wool-scouring.trialmoor.json", "utf8"));
const problem = setpointProblem(wool);
const [four, five] = [plainStudy(4), plainStudy(5)];
let turn = 0;

const CASES: Record<string, { rounds: number; run(): unknown }> = {
  "fit, 100 trials × 30 terms": { rounds: 40, run: () => fitModel(hundred, "y", { terms }, memo) },
  "toggle a term: fit and ladder": {
    rounds: 20,
    // Another term each time, as a person goes down the ladder; the study is a new thing each time, as after an edit.
    run: () => {
      turn++;
      const own: Term[] = terms.filter((_, i) => i !== turn % 30);
      const fit = fitModel({ ...hundred, models: [] }, "y", { terms: own }, memo);
      return effectLadder(hundred, fit, [], memo);
    },
  },
  "setpoint search, 4 responses, 6 factors": { rounds: 3, run: () => finish(searchSetpoint(problem, { seed: 1 })) },
  "plan search, 4 factors quadratic in 20": {
    rounds: 3,
    run: () => makePlan(four, { family: "optimal", trials: 20, terms: "quadratic", seed: 1 }),
  },
  "plan search, 5 factors with interactions in 24": {
    rounds: 3,
    run: () => makePlan(five, { family: "optimal", trials: 24, terms: "main+2fi", seed: 1 }),
  },
  "all subsets of 27 terms, strong hierarchy": {
    rounds: 1,
    run: () => finish(searchSubsets(sixty, "y", termSet(plainStudy(6), "quadratic"), { hierarchy: "strong" })),
  },
};

const out: Record<string, number> = {};
for (const [name, { rounds, run }] of Object.entries(CASES)) {
  if (rounds > 1) run();
  out[name] = median(
    Array.from({ length: rounds }, () => {
      const start = performance.now();
      run();
      return performance.now() - start;
    }),
  );
}
console.log(JSON.stringify(out));
