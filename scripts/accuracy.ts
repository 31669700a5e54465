// Digits on which least squares agrees with exact fractions, case by case; written into docs/accuracy.md.
import { readFileSync, writeFileSync } from "node:fs";
import { leastSquares } from "../src/core/numerics/least-squares";
import reference from "../src/core/testing/reference.json";
import { digits } from "../src/core/testing/studies";

const CASES: [keyof typeof reference, string][] = [
  ["longley", "Longley (NIST)"],
  ["wampler1", "Wampler 1 (NIST)"],
  ["wampler2", "Wampler 2 (NIST)"],
  ["wampler3", "Wampler 3 (NIST)"],
  ["wampler4", "Wampler 4 (NIST)"],
  ["wampler5", "Wampler 5 (NIST)"],
  ["mixed", "three-level category, two waves, as-run settings, coded"],
  ["scaled", "two-level study in natural units about 1,000, 100,000 and 0.001"],
];

interface Exact {
  x: number[][];
  y: number[];
  coefficients: string[];
  rss: string;
  inverse: string[];
  sequential: string[];
  leverage: string[];
}

const least = (values: readonly number[]): string => Math.min(15, Math.floor(Math.min(...values))).toString();
const rows = CASES.map(([name, words]) => {
  const exact = reference[name] as unknown as Exact;
  const n = exact.x.length;
  const p = exact.x[0].length;
  const fit = leastSquares({ rows: n, cols: p, data: Float64Array.from(exact.x.flat()) }, exact.y);
  // An exact polynomial leaves no residual: standard errors are 0 and have no digits to compare.
  const noise = Number(exact.rss) > 1e-6;
  const s = Math.sqrt(fit.rss / (n - p));
  const exactS = Math.sqrt(Number(exact.rss) / (n - p));
  return `| ${words} | ${least(exact.coefficients.map((b, j) => digits(fit.coefficients[j], b)))} | ${
    noise
      ? least(
          exact.inverse.map((v, j) =>
            digits(s * Math.sqrt(fit.inverse.data[j * p + j]), exactS * Math.sqrt(Number(v))),
          ),
        )
      : "no residual"
  } | ${least(
    exact.sequential.filter((v) => Math.abs(Number(v)) > 1e-9).map((v, j) => digits(fit.sequential[j], v)),
  )} | ${noise ? least([digits(fit.rss, exact.rss)]) : "no residual"} |`;
});
const table = [
  "| case | coefficients | standard errors | sequential sums of squares | residual sum of squares |",
  "| --- | --- | --- | --- | --- |",
  ...rows,
].join("\n");
const file = "docs/accuracy.md";
const text = readFileSync(file, "utf8");
const [start, end] = ["<!-- digits -->", "<!-- /digits -->"];
const made = text.replace(new RegExp(`${start}[\\s\\S]*${end}`), `${start}\n\n${table}\n\n${end}`);
if (process.argv.includes("--check")) {
  if (made !== text) {
    console.error("docs/accuracy.md does not hold the digits of today; run npx tsx scripts/accuracy.ts.");
    process.exit(1);
  }
} else writeFileSync(file, made);
console.log(table);
