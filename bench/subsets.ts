/** All subsets of candidate terms, exactly, in one thread. */
import { searchSubsets } from "../src/core/model";
import { seededRandom } from "../src/core/numerics/random";
import { finish } from "../src/core/questions";
import { type Settings, type Term, termSet } from "../src/core/study";
import { plainStudy, withTrials } from "../src/core/testing/studies";

const row = (name: string, value: string, wanted: string): void =>
  console.log(`${name.padEnd(58)} ${value.padStart(14)}   ${wanted}`);
const random = seededRandom(1);
const study = (n: number) =>
  withTrials(
    plainStudy(6),
    Array.from(
      { length: n },
      (): Settings => Object.fromEntries("abcdef".split("").map((f) => [f, 2 * random.uniform() - 1])),
    ),
    Array.from({ length: n }, () => random.normal()),
  );
const run = (name: string, n: number, terms: Term[], hierarchy: "off" | "strong", wanted: string): void => {
  const s = study(n);
  const start = performance.now();
  const { examined } = finish(searchSubsets(s, "y", terms, { hierarchy }));
  row(
    `${name}: ${examined.toLocaleString("en")} models`,
    `${((performance.now() - start) / 1000).toFixed(2)} s`,
    wanted,
  );
};
const two = termSet(plainStudy(6), "main+2fi");
run("21 terms, no hierarchy, 48 trials", 48, two, "off", "≤ 5 s");
run(
  "6 mains, 15 interactions, 6 squares, strong, 60 trials",
  60,
  termSet(plainStudy(6), "quadratic"),
  "strong",
  "≤ 5 s",
);
run("21 terms in 12 trials, no hierarchy", 12, two, "off", "handled");
