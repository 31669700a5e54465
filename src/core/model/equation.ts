import { categoryCombinations } from "../plans/combinations";
import { isNumeric, rangeOf } from "../study/coding";
import type { Settings, Study, Term } from "../study/schema";
import { categoriesOf, levelRows } from "../terms/levels";
import { alphabetOf, compareTerms, ofFactors, powers, termKey, termLetters } from "../terms/term";
import { unseenLevels } from "./data";
import type { Fit } from "./fit";

const MOST_COMBINATIONS = 64;

export interface NaturalEquation {
  /** The category levels this equation is for; left out when there are none. */
  when?: Settings;
  text: string;
  coefficients: { term: Term; coefficient: number }[];
}

export interface Equation {
  coded: string;
  natural: NaturalEquation[];
  /** Said when the combinations are too many to list. */
  note?: string;
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
function expand(study: Study, fit: Fit, term: Term): Map<string, { term: Term; coefficient: number }> {
  let all = new Map([["", { term: [] as Term, coefficient: 1 }]]);
  for (const id of term) {
    const factor = study.factors.find((f) => f.id === id);
    if (factor && !isNumeric(factor)) continue;
    const [low, high] = factor && isNumeric(factor) ? rangeOf(factor) : (fit.model.covariateRanges.get(id) ?? [-1, 1]);
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

/**
 * The fitted equation in coded units and, by expansion, in natural units for each category combination. Waves stand
 * at their average. Log-scaled factors appear as their natural logarithm.
 */
export function equationOf(study: Study, fit: Fit): Equation {
  const alphabet = alphabetOf(study);
  const withoutWaves = fit.parameters.filter((p) => ofFactors(p.term));
  const coded = joined(
    withoutWaves.map((p) => ({
      coefficient: p.coefficient,
      name:
        p.term.length === 0
          ? ""
          : p.level === undefined
            ? termLetters(alphabet, p.term)
            : `${termLetters(alphabet, p.term)}[${p.level}]`,
    })),
  );
  const categories = study.factors.filter((f) => !isNumeric(f) && fit.terms.some((t) => t.includes(f.id)));
  const unseen = unseenLevels(study, fit.data, fit.terms);
  const combinations = categoryCombinations(categories).filter(
    (c) => !unseen.some((u) => u.levels.includes(String(c[u.factor]))),
  );
  if (combinations.length > MOST_COMBINATIONS)
    return {
      coded,
      natural: [],
      note: `${combinations.length} category combinations: equations in natural units are given for chosen levels only.`,
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
  const natural = combinations.map((levels): NaturalEquation => {
    const total = new Map<string, { term: Term; coefficient: number }>();
    const index = new Map<string, number>();
    for (const p of withoutWaves) {
      const key = termKey(p.term);
      const column = fit.model.columns.find((c) => c.key === key && c.level === p.level)?.index ?? index.get(key) ?? 0;
      const weight = p.coefficient * contrastOf(study, p.term, column, levels);
      for (const part of expand(study, fit, p.term).values()) {
        const k = termKey(part.term);
        const sum = total.get(k);
        total.set(k, {
          term: sum?.term ?? part.term,
          coefficient: (sum?.coefficient ?? 0) + weight * part.coefficient,
        });
      }
    }
    const coefficients = [...total.values()]
      .sort((a, b) => compareTerms(alphabet, a.term, b.term))
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
          note: `No equation for ${unseen.map((u) => `${alphabet.names.get(u.factor)} ${u.levels.join(", ")}`).join("; ")}: no trial ran there.`,
        }
      : {}),
  };
}
