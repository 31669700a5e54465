/**
 * Coverage of confirmation intervals that count the variance between waves: how often the mean of three trials in a
 * wave of their own falls inside, for two to six earlier waves and shifts from none to three standard deviations.
 * Run: npx tsx bench/coverage.ts [studies]
 */

import { fitModel } from "../src/core/model/fit";
import { linearSurface } from "../src/core/model/linear-surface";
import { seededRandom } from "../src/core/numerics/random";
import { shiftHalfWidth } from "../src/core/setpoint/shift";
import { corners, plainStudy, withTrials } from "../src/core/testing/studies";

const COUNT = Number(process.argv[2] ?? 1000);
const random = seededRandom(7);
for (const waves of [2, 3, 4, 6]) {
  const shares: string[] = [];
  for (const between of [0, 0.3, 1, 3]) {
    let inside = 0;
    for (let n = 0; n < COUNT; n++) {
      // Waves of unlike size: whole and half factorials in turn.
      const settings = Array.from({ length: waves }, (_, w) =>
        w % 2 ? corners(2) : corners(3).map((s) => ({ a: s.a, b: s.b })),
      ).flat();
      const waveOf = Array.from({ length: waves }, (_, w) => new Array<number>(w % 2 ? 4 : 8).fill(w)).flat();
      const level = Array.from({ length: waves + 1 }, () => between * random.normal());
      const study = withTrials(
        plainStudy(2),
        settings,
        settings.map((_, i) => 20 + level[waveOf[i]] + random.normal()),
        { wave: (i) => `w${waveOf[i]}` },
      );
      const fit = fitModel(study, "y", { terms: [["a"], ["b"]] });
      const row = new Float64Array(fit.model.columns.length);
      fit.model.linear({ a: 0.5, b: -0.5 }, row);
      const said = fit.model.predictive(row);
      const half = shiftHalfWidth(linearSurface(study, fit), said, { m: 3 }, 0.95) ?? 0;
      const mean = 20 + level[waves] + random.normal() / Math.sqrt(3);
      if (Math.abs(mean - said.value) <= half) inside++;
    }
    shares.push(`σ_w ${between}: ${((100 * inside) / COUNT).toFixed(1)} %`);
  }
  console.log(`${waves} waves: ${shares.join(", ")}`);
}
