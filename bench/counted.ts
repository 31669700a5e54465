/**
 * What is claimed of shares and counts, by simulation: how often intervals of effects cover and null effects are
 * rejected, and the power that plans promise beside that of drawn studies.
 * Run: npx tsx bench/counted.ts [studies]
 */
import { COVERAGE_CASES, coverageOf, foundIn, POWER_CASES, powerCase } from "../src/core/testing/counted-cases";

const COUNT = Number(process.argv[2] ?? 10_000);
const percent = (v: number): string => `${(100 * v).toFixed(2)} %`;
console.log(`${COUNT} studies each; 95 % intervals of three effects, a null effect at 5 %`);
for (const c of COVERAGE_CASES) {
  const { covers, rejects } = coverageOf(c, COUNT);
  console.log(`${c.name}: covers ${percent(covers)}, rejects ${percent(rejects)}`);
}
console.log("power: promised, and of drawn studies");
for (const c of POWER_CASES) {
  const said = powerCase(c).judged.powerAt(c.change, 0.05, { replicates: 1, of: c.of }) ?? Number.NaN;
  const found = foundIn(c, COUNT);
  console.log(
    `${c.kind} of ${c.of} at ${c.base}, excess ${c.excess}, ${2 ** c.factors * c.copies} trials, change ${c.change}: ${said.toFixed(3)}, ${found.toFixed(3)}`,
  );
}
