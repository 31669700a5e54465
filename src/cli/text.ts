import { type FitReport, figure, pFigure, rounded } from "@/core/findings";
import type { Prediction } from "@/core/model";
import type { PowerAnswer } from "@/core/plans";
import type {
  FollowAnswer,
  JudgedAppraisal,
  PlanAnswer,
  QuestionAnswer,
  QuestionId,
  SurfaceAnswer,
} from "@/core/questions";
import type { Candidate, SearchResult } from "@/core/setpoint";
import { alphabetOf, type Study, type Term, termLetters, termName } from "@/core/study";

/** Readable text for people at a terminal; the figures in full come with --json. */

const table = (rows: (string | number | null | undefined)[][]): string => {
  const cells = rows.map((r) => r.map((c) => (c === null || c === undefined ? "–" : String(c))));
  const widths = cells[0]?.map((_, j) => Math.max(...cells.map((r) => (r[j] ?? "").length))) ?? [];
  return cells
    .map((r) =>
      r
        .map((c, j) => (j === 0 ? c.padEnd(widths[j]) : c.padStart(widths[j])))
        .join("  ")
        .trimEnd(),
    )
    .join("\n");
};
const num = (v: number | null | undefined, digits = 4): string =>
  v === null || v === undefined ? "–" : figure(v, digits);
const pValue = (p: number | null): string => (p === null ? "–" : pFigure(p));

const FROM: Record<JudgedAppraisal["termsFrom"], string> = {
  asked: "as asked",
  models: "of the stored models",
  plan: "which these plans are made for",
};

export function appraisalText(study: Study, a: JudgedAppraisal): string {
  const letters = (t: Term): string => termLetters(alphabetOf(study), t);
  const lines = [
    `judged by ${a.terms.length} terms, ${FROM[a.termsFrom]}: ${a.terms.map(letters).join(" ")}`,
    `${a.n} trials, ${a.p} columns; degrees of freedom: model ${a.df.model}, lack of fit ${a.df.lackOfFit}, pure error ${a.df.pureError}`,
    `efficiency %: D ${num(a.efficiency.d)}  A ${num(a.efficiency.a)}  G ${num(a.efficiency.g)}; mean prediction variance ${num(a.efficiency.i)}`,
  ];
  if (a.setups) {
    const { setups, eta, df, between, relative, leastSquares } = a.setups;
    lines.push(
      `${setups} set-ups, variance between them ${num(eta)} times that within; degrees of freedom: between ${df.between}, within ${df.within}; told between: ${between.map(letters).join(" ") || "nothing"}`,
      `beside every trial set anew %: D ${num(relative.d)}  A ${num(relative.a)}  I ${num(relative.i)}${leastSquares ? "; least squares is as good as generalised" : ""}`,
    );
  }
  if (a.definingRelation) lines.push(`resolution ${a.resolution}; I = ${a.definingRelation.join(" = ")}`);
  if (a.chains.length > 0)
    lines.push(
      `chains: ${a.chains.map((c, i) => c.map((t, j) => (j === 0 ? letters(t) : `${a.chainSigns[i][j] < 0 ? "−" : ""}${letters(t)}`)).join(" = ")).join("; ")}`,
    );
  lines.push(
    "",
    table([
      ["term", "state", "largest r", "power", ...(a.setups ? ["error df"] : []), "VIF"],
      ...a.map.map((m) => [
        letters(m.term),
        m.between ? `${m.state}, between` : m.state,
        m.largest.toFixed(2),
        num(a.power.find((p) => letters(p.term) === letters(m.term))?.value, 3),
        ...(a.setups ? [num(a.power.find((p) => letters(p.term) === letters(m.term))?.df, 3)] : []),
        num(a.vif.find((v) => letters(v.term) === letters(m.term))?.value, 3),
      ]),
    ]),
  );
  return [...lines, ...a.readings.map((r) => `\n${r.kind}: ${r.text}`)].join("\n");
}

function planText(study: Study, answer: PlanAnswer): string {
  const setups = answer.trials.some((t) => t.setup !== undefined);
  const rows = answer.trials.map((t) => [
    t.order,
    t.standard,
    t.wave,
    ...(setups ? [t.setup ?? "–"] : []),
    t.kind,
    ...study.factors.map((f) => String(t.settings[f.id])),
  ]);
  return [
    `${answer.family}, ${answer.trials.length} trials, seed ${answer.seed}${answer.recipe.generators ? `, ${answer.recipe.generators}` : ""}${answer.excluded > 0 ? `; ${answer.excluded} excluded by the region` : ""}`,
    "",
    table([
      ["order", "standard", "wave", ...(setups ? ["setup"] : []), "kind", ...study.factors.map((f) => f.id)],
      ...rows,
    ]),
    "",
    appraisalText(study, answer.appraisal),
  ].join("\n");
}

const varianceText = (v: Exclude<FitReport["variance"], undefined>): string =>
  `variance between ${v.setups} set-ups ${num(v.between)}${v.assumed === undefined ? "" : `, assumed ${num(v.assumed)} times that within`}, within ${num(v.within)}`;

export function fitText(study: Study, fit: FitReport): string {
  const alphabet = alphabetOf(study);
  const s = fit.summary;
  const counted = fit.dispersion !== undefined;
  const lines = [
    `${fit.response}: ${fit.n} trials, ${fit.terms.length} terms${fit.transform === "none" ? "" : `, scale ${JSON.stringify(fit.transform)}`}`,
    "",
  ];
  if (fit.steps)
    lines.push(...fit.steps.map((x) => `${x.action} ${termName(alphabet, x.term)} (${x.why}; ${num(x.value)})`), "");
  lines.push(
    table([
      ["term", "coefficient", "std error", "t", "p", "low", "high", "VIF"],
      ...fit.parameters.map((p) => [
        `${termName(alphabet, p.term)}${p.level ? ` [${p.level}]` : ""}`,
        num(p.coefficient, 5),
        num(p.standardError, 3),
        num(p.t, 3),
        pValue(p.p),
        p.interval ? rounded(p.interval[0], p.standardError) : "–",
        p.interval ? rounded(p.interval[1], p.standardError) : "–",
        num(p.vif, 3),
      ]),
    ]),
    "",
    table([
      [
        "source",
        "df",
        ...(fit.variance
          ? ["judged", "error df"]
          : counted
            ? ["deviance", "per df"]
            : ["sum of squares", "mean square"]),
        "F",
        "p",
      ],
      ...fit.anova.map((r) => [
        r.term ? `  ${termName(alphabet, r.term)}` : r.source,
        r.df,
        ...(fit.variance ? [r.stratum ?? "–", num(r.dfDenominator ?? null, 3)] : [num(r.ss, 5), num(r.ms, 5)]),
        num(r.f, 4),
        pValue(r.p),
      ]),
    ]),
    "",
    `${counted ? `scatter ${num(fit.dispersion)}  D² ` : `s ${num(s.s)}  R² `}${num(s.r2)}  adjusted ${num(s.r2Adjusted)}  predicted ${num(s.r2Predicted)}  AICc ${num(s.aicc, 5)}  BIC ${num(s.bic, 5)}`,
    ...(fit.variance ? [varianceText(fit.variance)] : []),
    `coded: ${fit.equation.coded}`,
    ...fit.equation.natural.map((e) => `natural${e.when ? ` (${Object.values(e.when).join(", ")})` : ""}: ${e.text}`),
    "",
    ...fit.checks.map((c) => `${c.id}: ${c.answer}`),
    ...fit.readings.map((r) => `${r.kind}: ${r.text}`),
  );
  return lines.join("\n");
}

const interval = (i: [number, number] | null): string => (i ? `${num(i[0])} … ${num(i[1])}` : "–");

const predictText = (study: Study, answer: { responses: Record<string, Prediction> }): string =>
  table([
    ["response", "unit", "mean", "mean interval", "one trial", "leverage", ""],
    ...Object.entries(answer.responses).map(([id, p]) => [
      id,
      study.responses.find((r) => r.id === id)?.unit || "–",
      num(p.mean),
      interval(p.meanInterval),
      interval(p.trialInterval),
      num(p.leverage, 3),
      [
        p.extrapolates ? "extrapolates" : "",
        p.breaksBounds ? "passes a physical bound" : "",
        p.scatter === undefined ? "" : `one trial scatters as the model of ${p.scatter} says`,
        p.assumed === undefined ? "" : `assumes set-ups to vary by ${num(p.assumed)} times what trials do`,
      ]
        .filter(Boolean)
        .join(", "),
    ]),
  ]);

export function setpointText(study: Study, result: SearchResult): string {
  const row = (name: string, c: Candidate): (string | number | null)[] => [
    name,
    ...study.factors.map((f) =>
      typeof c.settings[f.id] === "number" ? num(c.settings[f.id] as number, 5) : String(c.settings[f.id]),
    ),
    ...Object.values(c.responses).map((r) => num(r.mean)),
    c.overall.toFixed(4),
    c.chance === null ? "–" : `${(100 * c.chance).toFixed(1)} %`,
  ];
  return [
    `seed ${result.seed}`,
    table([
      ["", ...study.factors.map((f) => f.id), ...Object.keys(result.best.responses), "overall", "all limits"],
      row("exact", result.best),
      ...result.candidates.map((c, i) => row(String(i + 1), c)),
    ]),
    ...result.readings.map((r) => `${r.kind}: ${r.text}`),
  ].join("\n");
}

const powerText = (a: PowerAnswer): string =>
  `${a.solved} solved: effect ${num(a.effect)}, noise ${num(a.noise)}, power ${num(a.power)}, replicates ${a.replicates}, α ${num(a.alpha)}, error df ${a.df}`;

function subsetsText(study: Study, result: QuestionAnswer<"subsets">): string {
  const letters = (t: Term): string => termLetters(alphabetOf(study), t);
  return [
    `${result.examined.toLocaleString("en")} models, ${result.singular.toLocaleString("en")} left out since their columns are not independent`,
    "",
    table([
      ["terms", "size", "RSS", "R² adj", "R² pred", "AICc", "BIC", "weight"],
      ...result.models
        .slice(0, 20)
        .map((m) => [
          m.terms.map(letters).join(" ") || "constant",
          m.k,
          num(m.rss, 5),
          num(m.r2Adjusted, 3),
          num(m.r2Predicted, 3),
          num(m.aicc, 5),
          num(m.bic, 5),
          m.weight > 0 ? m.weight.toFixed(3) : "",
        ]),
    ]),
    ...(result.average
      ? [
          "",
          table([
            ["term", "averaged", "std err", "evidence"],
            ...result.average.coefficients.map((c) => [
              `${letters(c.term) || "constant"}${c.level ? ` [${c.level}]` : ""}`,
              num(c.coefficient, 5),
              num(c.standardError, 3),
              c.evidence.toFixed(3),
            ]),
          ]),
        ]
      : []),
  ].join("\n");
}

function surfaceText(study: Study, a: SurfaceAnswer): string {
  const places = (settings: Record<string, number | string>): (string | number | null)[] =>
    study.factors.map((f) =>
      typeof settings[f.id] === "number" ? num(settings[f.id] as number, 5) : String(settings[f.id] ?? ""),
    );
  const { stationary: s } = a;
  return [
    ...(s
      ? [
          `${s.nature} of ${num(s.value)} ${s.inside ? "inside" : "outside"} the region, ${num(s.distance, 3)} coded units from the centre; eigenvalues ${s.eigenvalues.map((v) => num(v, 3)).join(", ")}`,
          table([
            ["", ...study.factors.map((f) => f.id)],
            ["at", ...places(s.settings)],
          ]),
        ]
      : []),
    ...(a.ascent.length > 0
      ? [
          "",
          table([
            ["step", ...study.factors.map((f) => f.id), "predicted", "inside"],
            ...a.ascent.map((p) => [p.step, ...places(p.settings), num(p.predicted), p.inside ? "yes" : "no"]),
          ]),
        ]
      : []),
    a.path.reason,
    "",
    table([
      ["factor", "alone", "with interactions"],
      ...a.importance.map((i) => [i.factor, `${(100 * i.first).toFixed(1)} %`, `${(100 * i.total).toFixed(1)} %`]),
    ]),
    ...a.readings.map((r) => `${r.kind}: ${r.text}`),
  ].join("\n");
}

function followText(study: Study, a: FollowAnswer): string {
  const side = (x: JudgedAppraisal): (string | number | null)[] => [
    x.n,
    x.p,
    x.resolution,
    x.chains.length,
    x.lost.length,
    num(x.efficiency.d, 3),
    num(x.efficiency.i, 3),
    x.df.lackOfFit + x.df.pureError,
  ];
  return [
    planText(study, a),
    "",
    table([
      ["", "trials", "coefs", "resolution", "chains", "lost", "D", "I", "error df"],
      ...(a.before ? [["before", ...side(a.before)]] : []),
      ["after", ...side(a.after)],
    ]),
    ...a.readings.map((r) => `${r.kind}: ${r.text}`),
  ].join("\n");
}

const influenceText = (study: Study, { factors, readings }: QuestionAnswer<"influence">): string => {
  const ids = Object.keys(factors[0]?.responses ?? {});
  return [
    table([
      ["factor", "share", ...ids],
      ...factors.map((f) => [
        study.factors.find((x) => x.id === f.factor)?.name ?? f.factor,
        num(f.share, 3),
        ...ids.map((id) => num(f.responses[id], 3)),
      ]),
    ]),
    ...readings.map((r) => `${r.kind}: ${r.text}`),
  ].join("\n");
};

function verdictText(a: QuestionAnswer<"verdict">): string {
  const yes = (v: boolean | null): string => (v === null ? "–" : v ? "yes" : "no");
  return [
    table([
      ["response", "trials", "mean", "predicted", "interval", "agrees", "meets limits"],
      ...Object.entries(a.responses).map(([id, v]) => [
        id,
        v.m,
        num(v.mean),
        num(v.predicted),
        interval(v.interval),
        yes(v.agrees),
        yes(v.meetsLimits),
      ]),
    ]),
    ...(a.complete ? [] : ["Some confirmation trials have no results yet."]),
    ...a.suspects.map((s) => `suspect: ${s.text}`),
  ].join("\n");
}

const rigText = (a: QuestionAnswer<"rig">): string =>
  `${a.ran.length} ${a.ran.length === 1 ? "trial" : "trials"} run, seed ${a.seed}`;

/** How each question's answer reads at a terminal. */
const TEXTS: { [Q in QuestionId]?: (study: Study, answer: QuestionAnswer<Q>) => string } = {
  plan: planText,
  appraise: appraisalText,
  fit: fitText,
  subsets: subsetsText,
  predict: (study, a) => predictText(study, a),
  setpoint: setpointText,
  surface: surfaceText,
  power: (_, a) => powerText(a),
  follow: followText,
  influence: (study, a) => influenceText(study, a),
  verdict: (_, a) => verdictText(a),
  rig: (_, a) => rigText(a),
};

/** An answer as readable text; JSON for a question that has no words of its own. */
export function textOf<Q extends QuestionId>(id: Q, study: Study, answer: QuestionAnswer<Q>): string {
  return TEXTS[id]?.(study, answer) ?? JSON.stringify(answer, null, 2);
}
