import { regionSample } from "../appraisal/variance";
import type { Unit } from "../messages/message";
import type { Holds } from "../messages/readings";
import type { BlockEffect } from "../model/block-effects";
import type { Check } from "../model/checklist";
import { isExact } from "../model/exact";
import { type Fit, fitModel } from "../model/fit";
import { ofNoise } from "../model/guard";
import { unseenLevels } from "../model/model-data";
import { followsTooClosely } from "../model/overfit";
import { tooSmall } from "../model/too-small";
import { significance } from "../study/coding";
import type { Study, Term } from "../study/schema";
import { presentPredictor } from "../surface/average";
import { withoutParents } from "../terms/candidates";
import { type Alphabet, alphabetOf, ofFactors, termKey, termName, WAVE_TERM } from "../terms/term";
import { pText } from "../words/numbers";
import { type ModelContext, nameOf, WEIGHTS } from "./model-context";
import { FEW_DF, type Reading } from "./reading";

/** Few degrees of freedom, or none, to judge by. */
export function fewDf({ fit, name }: ModelContext): Reading[] {
  const { residualDf } = fit.summary;
  const about = { kind: "caution", weight: WEIGHTS.noDf } as const;
  if (residualDf === 0)
    return [
      {
        ...about,
        id: "no-residual-df",
        code: "no-residual-df",
        values: { coefficients: fit.parameters.length, results: fit.n },
        evidence: "half-normal",
      },
    ];
  if (residualDf >= FEW_DF || fit.model.exact) return [];
  return [{ ...about, id: "few-df", code: "few-df", values: { df: residualDf, response: name }, evidence: "ladder" }];
}

/** That choosing among as many terms makes as much of noise, or that less is left than the noise there is. */
export function ofChoosing({ study, fit, name, unit, memo }: ModelContext): Reading[] {
  const common = { kind: "caution", evidence: "ladder", weight: WEIGHTS.ofChoosing } as const;
  const out: Reading[] = [];
  const noise = ofNoise(study, fit, memo);
  const { r2Predicted } = fit.summary;
  if (noise && noise.r2 !== null && r2Predicted !== null && fit.terms.length > 0 && r2Predicted < noise.r2)
    out.push({
      ...common,
      id: "of-noise",
      code: "of-noise",
      values: { response: name, kept: noise.kept, r2: noise.r2, own: r2Predicted, terms: fit.terms.length },
    });
  const small = tooSmall(study, fit);
  if (small)
    out.push({
      ...common,
      id: "too-small",
      code: "too-small",
      values: {
        response: name,
        s: { value: small.s, error: small.s, unit },
        noise: { value: small.noise, error: small.noise, unit },
        copies: small.from === "copies",
      },
    });
  return out;
}

/** A column by its term and level. */
const columnName = (alphabet: Alphabet, { term, level }: { term: Term; level?: string | undefined }): string =>
  `${termName(alphabet, term)}${level === undefined ? "" : `[${level}]`}`;

/** Columns that could not be told from others, and levels that no trial has. */
export function untold({ study, fit, name }: ModelContext): Reading[] {
  const alphabet = alphabetOf(study);
  const dropped = fit.dropped.filter((d) => ofFactors(d.term) || d.term[0] === WAVE_TERM[0]);
  const columns = [...new Set(dropped.map((x) => columnName(alphabet, x)))].slice(0, 3);
  return [
    ...dropped.slice(0, 1).map(
      (d): Reading => ({
        id: "dropped",
        kind: "caution",
        code: "dropped",
        values: {
          columns,
          sum:
            d.equals.length === 0
              ? null
              : {
                  of: columnName(alphabet, d),
                  parts: d.equals.map((e) => ({ name: columnName(alphabet, e), factor: e.factor })),
                },
        },
        evidence: "table",
        weight: WEIGHTS.dropped,
      }),
    ),
    ...unseenLevels(study, fit.data, fit.terms).map(
      (u): Reading => ({
        id: `unseen-${u.factor}`,
        kind: "caution",
        code: "unseen",
        values: { response: name, factor: nameOf(study, u.factor), levels: u.levels },
        evidence: "equation",
        weight: WEIGHTS.dropped + 1,
      }),
    ),
  ];
}

/** How well the model holds: exactly, not within what trials scatter, or not for what it has not seen. */
export function misfit({ study, fit, name, memo }: ModelContext, checks: readonly Check[]): Reading[] {
  const out: Reading[] = [];
  const { summary, lackOfFit } = fit;
  if (isExact(study, fit.response))
    out.push({
      id: "exact",
      kind: "finding",
      code: "exact-model",
      values: { response: name },
      evidence: "table",
      weight: WEIGHTS.lackOfFit,
    });
  const check = checks.find((c) => c.id === "misfit");
  // In the family of all checks where errors can be ranked, else by itself.
  if (lackOfFit && lackOfFit.p !== null && (check ? check.alarm : lackOfFit.p < significance(study)))
    out.push({
      id: "lack-of-fit",
      kind: "caution",
      code: "lack-of-fit",
      values: {
        f: lackOfFit.f ?? 0,
        df: lackOfFit.df,
        pureErrorDf: Math.round(10 * lackOfFit.pureErrorDf) / 10,
        p: lackOfFit.p,
      },
      evidence: "table",
      weight: WEIGHTS.lackOfFit,
    });
  if (summary.r2 !== null && summary.r2Predicted !== null && followsTooClosely(study, fit, memo))
    out.push({
      id: "overfit",
      kind: "caution",
      code: "overfit",
      values: { r2: summary.r2, r2Predicted: summary.r2Predicted },
      evidence: "ladder",
      weight: WEIGHTS.overfit,
    });
  return out;
}

/** Scatter over that of counting from which it is said unasked. */
const CARRIED = 1.3;

/** The centre off the plane of the corners, or what cannot be told from it. */
export function bends(
  study: Study,
  fit: Fit,
  standing: readonly BlockEffect[],
  checks: readonly Check[],
  unit: Unit,
): Reading[] {
  const name = study.responses.find((r) => r.id === fit.response)?.name ?? fit.response;
  const { s } = fit.summary;
  const action = { id: "next-wave" as const, go: "plan" as const };
  const common = { kind: "caution" as const, evidence: "ladder" as const, weight: WEIGHTS.curvature, action };
  const centre = standing.find((r) => r.id === "curvature");
  const wave = standing.find((r) => r.id === "wave");
  if (centre?.lost && wave?.inModel && wave.p !== null && wave.p < significance(study))
    return [
      {
        ...common,
        id: "bend-or-shift",
        code: "bend-or-shift",
        values: {
          above: wave.differences[0].above,
          below: wave.differences[0].below,
          size: { value: wave.size ?? 0, error: s, unit },
          p: wave.p,
        },
      },
    ];
  if (!centre || centre.size === null || centre.p === null || centre.p >= significance(study)) return [];
  // Among all that is asked of a model something is past its own p more often than one would think.
  if (checks.some((c) => c.code === "bend-centre-perhaps")) return [];
  return [
    {
      ...common,
      id: "curvature",
      code: "curvature",
      values: { response: name, size: { value: centre.size, error: s, unit }, p: centre.p },
    },
  ];
}

/** What a likelihood of counts must say of itself: that it is penalised, and how far trials scatter beyond counting. */
export function countedReadings(study: Study, fit: Fit): Reading[] {
  const { likelihood, link } = fit.model;
  if (!likelihood) return [];
  const name = study.responses.find((r) => r.id === fit.response)?.name ?? fit.response;
  const { firth, dispersion, counting } = likelihood;
  const out: Reading[] = [];
  if (firth)
    out.push({
      id: "penalised",
      kind: "caution",
      ...(firth.why === "separates"
        ? { code: "penalised-separates", values: { response: name } }
        : {
            code: "penalised-few",
            values: {
              response: name,
              of: firth.of,
              level: firth.level,
              events: firth.which === "events",
              counted: firth.counted,
            },
          }),
      evidence: "table",
      weight: WEIGHTS.penalised,
    });
  if (!counting && dispersion !== null && dispersion > CARRIED)
    out.push({
      id: "scatter",
      kind: "finding",
      code: "scatter-carried",
      values: { response: name, times: dispersion, share: link.multiplies === "odds" },
      evidence: "checks",
      weight: WEIGHTS.scatter,
      about: "counting",
    });
  return out;
}

/** How set-ups vary beside the trials of one, and what ignoring them would have said of what is hard to change. */
export function setupReadings({ study, fit, unit, memo }: ModelContext): Reading[] {
  const { setups } = fit.model;
  if (!setups) return [];
  const response = study.responses.find((r) => r.id === fit.response)?.name ?? fit.response;
  const { multiplies } = fit.model.link;
  const empirical: Reading[] = multiplies
    ? [
        {
          id: "empirical",
          kind: "finding",
          code: "empirical",
          values: { response, share: multiplies === "odds" },
          evidence: "table",
          weight: WEIGHTS.scatter,
          about: "counting",
        },
      ]
    : [];
  if (setups.assumed !== undefined)
    return [
      ...empirical,
      {
        id: "setups",
        kind: "caution",
        code: "setups-assumed",
        values: { response, setups: setups.setups, ratio: setups.assumed },
        evidence: "table",
        weight: WEIGHTS.noDf,
      },
    ];
  const apart = { ...study, trials: study.trials.map(({ setup: _setup, ...t }) => t) };
  const plain = fitModel(apart, fit.response, { terms: fit.terms, transform: fit.transform }, memo).anova;
  const alpha = significance(fit);
  const turns = (t: { p: number; right: number }): boolean => t.p < alpha && t.right >= alpha;
  const ignored = fit.anova
    .flatMap((row) => {
      const p = plain.find(
        (r) => r.source === "term" && r.term && row.term && termKey(r.term) === termKey(row.term),
      )?.p;
      return row.source === "term" && row.stratum === "between" && row.term && row.p !== null && typeof p === "number"
        ? [{ term: termName(alphabetOf(study), row.term), p, right: row.p }]
        : [];
    })
    .filter((t) => t.p < t.right && pText(t.p) !== pText(t.right))
    // Where the answer turns is what matters most.
    .sort((a, b) => Number(turns(b)) - Number(turns(a)) || Math.log(a.p / a.right) - Math.log(b.p / b.right))[0];
  const size = (variance: number) => ({ value: Math.sqrt(variance), error: Math.sqrt(variance), unit });
  return [
    ...empirical,
    {
      id: "setups",
      kind: "finding",
      code: "setups",
      values: {
        response,
        setups: setups.setups,
        trials: fit.n,
        between: setups.bounded ? null : size(setups.between),
        within: size(setups.within),
        df: setups.betweenDf,
        ignored: ignored ?? null,
      },
      evidence: "table",
      weight: WEIGHTS.setups,
    },
  ];
}

/** How trials of different numbers of units weigh. */
export function pieceReadings({ fit, name, unit }: ModelContext): Reading[] {
  const units = fit.model.piecesOf();
  if (!units?.unequal) return [];
  const { least, most, bounded } = units.unequal;
  const { between, within } = units.variances;
  const size = (variance: number) => ({ value: Math.sqrt(variance), error: Math.sqrt(variance), unit });
  return [
    {
      id: "units",
      kind: "finding",
      code: "units-unequal",
      values: { response: name, least, most, between: bounded ? null : size(between), within: size(within) },
      evidence: "table",
      weight: WEIGHTS.scatter,
    },
  ];
}

/** What predictions are made of: results raised to what a scale allows, several models. */
export function madeOf({ study, fit, name, memo }: ModelContext): Reading[] {
  const out: Reading[] = [];
  const floored = fit.data.floored?.length ?? 0;
  if (floored > 0)
    out.push({
      id: "floored",
      kind: "caution",
      code: "floored",
      values: { n: floored },
      evidence: "ladder",
      weight: WEIGHTS.overfit,
    });
  const members = presentPredictor(study, fit.response, memo, fit).members.length;
  if (members > 1)
    out.push({
      id: "averaged",
      kind: "finding",
      code: "averaged",
      values: { response: name, models: members },
      evidence: "equation",
      weight: WEIGHTS.parents,
    });
  return out;
}

/** What the fit says without its most influential trial. */
export function influential({ study, fit, unit, memo }: ModelContext, checks: readonly Check[]): Reading[] {
  if (!checks.some((c) => (c.id === "single" || c.id === "pull") && c.alarm)) return [];
  const pick = fit.trials.reduce((a, b) =>
    Math.max(b.cooks ?? 0, Math.abs(b.deleted ?? 0) / 10) > Math.max(a.cooks ?? 0, Math.abs(a.deleted ?? 0) / 10)
      ? b
      : a,
  );
  const trial = study.trials.find((t) => t.id === pick.id);
  if (!trial) return [];
  const without = fitModel(
    { ...study, trials: study.trials.map((t) => (t.id === pick.id ? { ...t, use: false } : t)) },
    fit.response,
    { terms: fit.terms, ...fit.fitting },
    memo,
  );
  let moved: { term: string; before: number; after: number } | null = null;
  const alphabet = alphabetOf(study);
  for (const p of fit.parameters) {
    if (p.term.length === 0 || !ofFactors(p.term)) continue;
    const q = without.parameters.find((x) => termKey(x.term) === termKey(p.term) && x.level === p.level);
    if (q && (!moved || Math.abs(q.coefficient - p.coefficient) > Math.abs(moved.after - moved.before)))
      moved = { term: termName(alphabet, p.term), before: p.coefficient, after: q.coefficient };
  }
  return [
    {
      id: "influential",
      kind: "caution",
      code: "influential",
      values: {
        order: trial.order,
        cooks: pick.cooks,
        off: Math.abs(pick.deleted ?? pick.studentized ?? 0),
        s: { before: fit.summary.s ?? 0, after: without.summary.s ?? 0 },
        unit,
        moved,
      },
      evidence: "checks",
      weight: WEIGHTS.influential,
      about: trial.id,
    },
  ];
}

/** Checks that ring and have no reading of their own. */
/** Checks whose alarms are readings of their own. */
const TOLD_APART = new Set<Check["id"]>(["single", "pull", "bend", "misfit"]);

export const alarms = (checks: readonly Check[]): Reading[] =>
  checks
    .filter((c) => c.alarm && !TOLD_APART.has(c.id))
    .map((c) => ({
      id: `check-${c.id}`,
      kind: "caution",
      code: "check",
      values: { check: c },
      evidence: "checks",
      weight: WEIGHTS.check,
      about: c.id,
    }));

/** Terms that stand without their parents. */
export function orphans({ study, fit }: ModelContext): Reading[] {
  const found = withoutParents(fit.terms);
  if (found.length === 0) return [];
  return [
    {
      id: "orphans",
      kind: "caution",
      code: "orphans",
      values: { terms: found.slice(0, 3).map((t) => termName(alphabetOf(study), t)), n: found.length },
      evidence: "ladder",
      weight: WEIGHTS.parents,
    },
  ];
}

/** What would keep predictions within bounds: a scale that ends where they do, never the one in use. */
function scaleThatHolds(
  { min, max }: { min?: number | undefined; max?: number | undefined },
  values: readonly number[],
  { transform }: Fit,
): Holds {
  const below = min !== undefined && values.some((v) => v < min);
  const above = max !== undefined && values.some((v) => v > max);
  if (min === 0 && max === 1 && transform === "none") return "share";
  return below && !above && min === 0 && transform !== "log" ? "log" : "none";
}

/** Predictions past what the response can be. */
export function beyondBounds({ study, fit, name, memo }: ModelContext): Reading[] {
  const bounds = study.responses.find((r) => r.id === fit.response)?.bounds;
  if (!bounds || (bounds.min === undefined && bounds.max === undefined)) return [];
  const { min = Number.NEGATIVE_INFINITY, max = Number.POSITIVE_INFINITY } = bounds;
  const read = presentPredictor(study, fit.response, memo, fit);
  const values = regionSample(study, 400).map((s) => read.value(s));
  const beyond = values.filter((v) => v < min || v > max).length;
  if (beyond === 0) return [];
  return [
    {
      id: "beyond-bounds",
      kind: "caution",
      code: "beyond-bounds",
      values: {
        percent: Math.max(1, Math.round((100 * beyond) / values.length)),
        response: name,
        ...(values.some((v) => v < min) ? { side: "below", bound: min } : { side: "above", bound: max }),
        holds: scaleThatHolds(bounds, values, fit),
      },
      evidence: "map",
      weight: WEIGHTS.bounds,
    },
  ];
}
