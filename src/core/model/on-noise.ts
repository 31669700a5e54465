import { dot } from "../numerics/least-squares";
import { seededRandom } from "../numerics/random";
import { choose, type Products, type Rule } from "./choosing";
import type { ClearedColumns } from "./cleared";
import type { Fit } from "./fit";

/** A choosing repeated on one draw of noise. */
export interface NoiseChosen {
  /** Which terms stay, and how many. */
  kept: boolean[];
  count: number;
  /** The noise, cleared of what always stands in. */
  noise: Float64Array;
}

/**
 * The same choosing of terms repeated on seeded draws of noise through the same trials.
 *
 * @param base a fit of what always stands in
 */
export function* onNoise(
  base: Fit,
  { n, total, vectors }: ClearedColumns,
  products: Products,
  rule: Rule,
  draws: number,
): Generator<NoiseChosen, void, void> {
  const width = total + 1;
  const random = seededRandom(1);
  for (let k = 0; k < draws; k++) {
    const noise = base.model.left(Float64Array.from({ length: n }, () => random.normal())) ?? new Float64Array(n);
    const cross = products.cross.slice();
    for (let j = 0; j < total; j++) {
      const along = dot(vectors[j], noise);
      cross[j * width + total] = along;
      cross[total * width + j] = along;
    }
    cross[width * width - 1] = dot(noise, noise);
    const { kept } = choose({ ...products, cross }, rule);
    yield { kept, count: kept.filter(Boolean).length, noise };
  }
}
