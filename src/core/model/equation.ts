import type { Message } from "../messages/message";
import type { RemarkValues } from "../messages/remarks";
import { quadraticForm } from "../numerics/least-squares";
import { categoryCombinations } from "../plans/combinations";
import { isNumeric, rangeOf } from "../study/coding";
import type { Settings, Study, Term } from "../study/schema";
import { categoriesOf, levelRows } from "../terms/levels";
import { alphabetOf, compareTerms, ofFactors, powers, termKey, termLetters } from "../terms/term";
import type { Fit } from "./fit";
import type { FittedModel } from "./fitted";
import { unseenLevels } from "./model-data";

const MOST_COMBINATIONS = 64;

export interface NaturalEquation {
  /** The category levels this equation is for; left out when there are none. */
  when?: Settings;
  text: string;
  coefficients: NaturalCoefficient[];
}

/** A coefficient in natural units. */
export interface NaturalCoefficient {
  term: Term;
  coefficient: number;
  /** Null without degrees of freedom for error. */
  standardError: number | null;
  interval: [number, number] | null;
}

export interface Equation {
  coded: string;
  natural: NaturalEquation[];
  /** Said when the combinations are too many to list. */
  note?: Message<RemarkValues>;
}

const plain = (v: number): string => String(Number(v.toPrecision(6))).replace("-", "−");

function joined(parts: { coefficient: number; name: string }[]): string {
  return parts
    .map(({ coefficient, name }, i) => {
      const size = plain(Math.abs(coefficient));
      const sign = coefficient < 0 ? (i === 0 ? "−" : " − ") : i === 0 ? "" : " + ";
      return `${sign}${size}${name ? ` ${name}` : ""}`;
    })
    .join("");
}

/** What a column of a term stands for at these levels. */
const contrastOf = (study: Study, term: Term, index: number, levels: Settings): number =>
  levelRows(study, term).find((r) => categoriesOf(study, term).every((f, i) => r.levels[i] === levels[f.id]))?.row[
    index
  ] ?? 0;

/** Product of (uᵢ − midᵢ)/halfᵢ over a term's numeric parts, expanded into monomials of the natural variables. */
function expand(study: Study, model: FittedModel, term: Term): Map<string, { term: Term; coefficient: number }> {
  let all = new Map([["", { term: [] as Term, coefficient: 1 }]]);
  for (const id of term) {
    const factor = study.factors.find((f) => f.id === id);
    if (factor && !isNumeric(factor)) continue;
    const [low, high] = factor && isNumeric(factor) ? rangeOf(factor) : (model.covariateRanges.get(id) ?? [-1, 1]);
    const log = factor !== undefined && isNumeric(factor) && factor.scale === "log";
    const a = log ? Math.log(low) : low;
    const b = log ? Math.log(high) : high;
    const half = (b - a) / 2 || 1;
    const mid = (a + b) / 2;
    const next = new Map<string, { term: Term; coefficient: number }>();
    const put = (t: Term, coefficient: number): void => {
      const key = termKey(t);
      const present = next.get(key);
      next.set(key, { term: t, coefficient: (present?.coefficient ?? 0) + coefficient });
    };
    for (const part of all.values()) {
      put([...part.term, id], part.coefficient / half);
      put(part.term, (-part.coefficient * mid) / half);
    }
    all = next;
  }
  return all;
}

/** A coefficient of the natural equation as it is put together: the share of each coded one in it. */
interface Made {
  term: Term;
  shares: Float64Array;
}

/**
 * The fitted equation in coded units and, by expansion, in natural units for each category combination, every natural
 * coefficient with its interval. Waves stand at their average. Log-scaled factors appear as their natural logarithm.
 *
 * @param model whose coefficients they are: the fit's own, or an average
 */
export function equationOf(study: Study, fit: Fit, model: FittedModel = fit.model): Equation {
  const alphabet = alphabetOf(study);
  const places = model.columns.flatMap((c, j) => (ofFactors(c.term) ? [j] : []));
  const coded = joined(
    places.map((j) => {
      const { term, level } = model.columns[j];
      const letters = term.length === 0 ? "" : termLetters(alphabet, term);
      return { coefficient: model.coefficients[j], name: level === undefined ? letters : `${letters}[${level}]` };
    }),
  );
  const categories = study.factors.filter((f) => !isNumeric(f) && model.terms.some((t) => t.includes(f.id)));
  const unseen = unseenLevels(study, fit.data, model.terms);
  const combinations = categoryCombinations(categories).filter(
    (c) => !unseen.some((u) => u.levels.includes(String(c[u.factor]))),
  );
  if (combinations.length > MOST_COMBINATIONS)
    return {
      coded,
      natural: [],
      note: { code: "equation-many", values: { combinations: combinations.length } },
    };
  const numericName = (id: string): string => {
    const factor = study.factors.find((f) => f.id === id);
    const name = alphabet.names.get(id) ?? id;
    return factor && isNumeric(factor) && factor.scale === "log" ? `ln(${name})` : name;
  };
  const textOf = (term: Term): string =>
    powers(alphabet, term)
      .map(({ id, power }) => numericName(id) + ["", "", "²", "³", "⁴", "⁵", "⁶"][power])
      .join(" × ");
  const expanded = new Map(model.terms.map((t) => [termKey(t), expand(study, model, t)]));
  const natural = combinations.map((levels): NaturalEquation => {
    const total = new Map<string, Made>();
    for (const j of places) {
      const { term, key, index } = model.columns[j];
      const contrast = contrastOf(study, term, index, levels);
      for (const part of (expanded.get(key) ?? expand(study, model, term)).values()) {
        const k = termKey(part.term);
        const made = total.get(k) ?? { term: part.term, shares: new Float64Array(model.columns.length) };
        made.shares[j] += contrast * part.coefficient;
        total.set(k, made);
      }
    }
    const coefficients = [...total.values()]
      .sort((a, b) => compareTerms(alphabet, a.term, b.term))
      .map((made) => naturalCoefficient(model, fit.confidence, made))
      .filter((c) => c.coefficient !== 0 || c.term.length === 0);
    return {
      ...(categories.length > 0 ? { when: levels } : {}),
      text: joined(coefficients.map((c) => ({ coefficient: c.coefficient, name: textOf(c.term) }))),
      coefficients,
    };
  });
  return {
    coded,
    natural,
    ...(unseen.length > 0
      ? {
          note: {
            code: "equation-unseen",
            values: {
              unseen: unseen.map((u) => ({ factor: alphabet.names.get(u.factor) ?? u.factor, levels: u.levels })),
            },
          },
        }
      : {}),
  };
}

/** A natural coefficient with its error: the same sum of coded ones, by their covariance. */
function naturalCoefficient(model: FittedModel, confidence: number, { term, shares }: Made): NaturalCoefficient {
  const parts = shares.map((v, j) => v * model.coefficients[j]);
  const sum = parts.reduce((t, v) => t + v, 0);
  // What cancels to rounding is nothing.
  const coefficient = Math.abs(sum) <= 1e-13 * parts.reduce((t, v) => t + Math.abs(v), 0) ? 0 : sum;
  const standardError = model.covariance && Math.sqrt(Math.max(0, quadraticForm(model.covariance, shares)));
  const df = model.dfOf(shares);
  const half = standardError === null || df === 0 ? null : model.critical(confidence, df) * standardError;
  return {
    term,
    coefficient,
    standardError,
    interval: half === null ? null : [coefficient - half, coefficient + half],
  };
}
