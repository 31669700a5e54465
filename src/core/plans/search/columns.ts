import { isNumeric } from "../../study/coding";
import type { Factor, Term } from "../../study/schema";
import { contrastRows } from "../../terms/model-matrix";
import type { Row } from "./space";

/** Model columns as products, laid out so that a search can ask what one coordinate does to all of them. */
export interface Columns {
  count: number;
  /** Columns that stand for terms, the constant among them; the rest stand for blocks and come last. */
  modelCount: number;
  /** Power of factor j in column c: `power[j][c]`; 0 for categories. */
  power: Uint8Array[];
  /** Highest power of factor j in any column. */
  degree: number[];
  /** The whole row of columns. */
  row(r: Row, into: Float64Array): void;
  /** The columns with factor j's own part left out. */
  rest(r: Row, j: number, into: Float64Array): void;
  /** What category j at a level multiplies each column by. */
  category(j: number, level: number, into: Float64Array): void;
  /**
   * Mean of xx′ of the terms' columns over the box, blocks zero: coded coordinates uniform, listed values (coded,
   * `values[j]`) and levels equally weighted. Exact, as products of each factor's own moments.
   */
  boxMoments(values: readonly (ArrayLike<number> | undefined)[]): Float64Array;
}

/**
 * Columns of the constant, the terms (orthonormal contrasts for categories, so that determinants and traces do not
 * depend on coding) and `blocks` − 1 block contrasts; a row's block stands after its factors.
 */
export function compileColumns(factors: readonly Factor[], terms: readonly Term[], blocks: number): Columns {
  const k = factors.length;
  const positions = new Map(factors.map((f, j) => [f.id, j]));
  const contrasts = factors.map((f) => (isNumeric(f) ? [] : contrastRows(f.levels.length, "orthonormal")));
  const blockRows = blocks > 1 ? contrastRows(blocks, "orthonormal") : [];
  interface Part {
    powers: Map<number, number>;
    categories: { j: number; c: number }[];
    block?: number;
  }
  const parts: Part[] = [{ powers: new Map(), categories: [] }];
  for (const term of terms) {
    let made: Part[] = [{ powers: new Map(), categories: [] }];
    for (const id of term) {
      const j = positions.get(id) as number;
      const f = factors[j];
      made = isNumeric(f)
        ? made.map((p) => ({ ...p, powers: new Map(p.powers).set(j, (p.powers.get(j) ?? 0) + 1) }))
        : made.flatMap((p) =>
            Array.from({ length: f.levels.length - 1 }, (_, c) => ({ ...p, categories: [...p.categories, { j, c }] })),
          );
    }
    parts.push(...made);
  }
  const modelCount = parts.length;
  for (let c = 0; c < blocks - 1; c++) parts.push({ powers: new Map(), categories: [], block: c });
  const count = parts.length;
  const power = Array.from({ length: k }, (_, j) => Uint8Array.from(parts, (p) => p.powers.get(j) ?? 0));
  const lists = parts.map((p) => [...p.powers].map(([j, n]) => ({ j, n })));
  const value = (r: Row, c: number, skip: number): number => {
    let v = 1;
    for (const { j, n } of lists[c]) if (j !== skip) for (let i = 0; i < n; i++) v *= r[j];
    for (const q of parts[c].categories) if (q.j !== skip) v *= contrasts[q.j][r[q.j]][q.c];
    const block = parts[c].block;
    if (block !== undefined) v *= blockRows[r[k]][block];
    return v;
  };
  return {
    count,
    modelCount,
    power,
    degree: power.map((p) => p.reduce((m, v) => Math.max(m, v), 0)),
    row(r, into) {
      for (let c = 0; c < count; c++) into[c] = value(r, c, -1);
    },
    rest(r, j, into) {
      for (let c = 0; c < count; c++) into[c] = value(r, c, j);
    },
    boxMoments(values) {
      const out = new Float64Array(count * count);
      const moment = (j: number, n: number): number => {
        const v = values[j];
        if (v) return Array.from(v).reduce((t, x) => t + x ** n, 0) / v.length;
        return n % 2 ? 0 : 1 / (n + 1);
      };
      for (let a = 0; a < modelCount; a++)
        for (let b = 0; b < modelCount; b++) {
          let total = 1;
          for (let j = 0; j < k && total !== 0; j++) {
            if (contrasts[j].length === 0) total *= moment(j, power[j][a] + power[j][b]);
            else {
              const levels = [...parts[a].categories, ...parts[b].categories].filter((q) => q.j === j);
              total *=
                contrasts[j].reduce((t, row) => t + levels.reduce((p, q) => p * row[q.c], 1), 0) / contrasts[j].length;
            }
          }
          out[a * count + b] = total;
        }
      return out;
    },
    category(j, level, into) {
      const row = contrasts[j][level];
      for (let c = 0; c < count; c++) {
        const q = parts[c].categories.find((x) => x.j === j);
        into[c] = q ? row[q.c] : 1;
      }
    },
  };
}
