/**
 * What a newcomer ends with who presses only what is offered first: planted truths (a quarter of main effects active,
 * pairs and squares by heredity, sizes from the smallest change up), a plan, results with noise, the model first
 * offered, the settings of highest predicted desirability. How often these are within 0.05 of the best there is, and
 * how often a mean promised to meet its limit with 95 % does.
 * Run: npx tsx bench/guidance.ts [studies] [part of a kind's name]
 */
import type { Fitting } from "../src/core/model";
import { fittingOf } from "../src/core/model/data";
import { type Fit, fitModel } from "../src/core/model/fit";
import { linearSurface } from "../src/core/model/linear-surface";
import { type OfferRule, offeredModel } from "../src/core/model/offer";
import { type Random, seededRandom } from "../src/core/numerics/random";
import { adoptPlan, followUp, makePlan } from "../src/core/plans";
import { desirability } from "../src/core/setpoint";
import { surenessOf } from "../src/core/setpoint/sureness";
import type { Factor, Goal, Settings, Study, StudyInput, Term } from "../src/core/study";
import { code, isCentre, isCorner, isNumeric } from "../src/core/study/coding";
import { regionOf } from "../src/core/study/region";
import { parseStudy } from "../src/core/study/validate";
import { canBend } from "../src/core/terms/candidates";

const COUNT = Number(process.argv[2] ?? 200);
const ONLY = process.argv[3] ?? "";
const SMALLEST = 2;
const GOAL: Goal = { aim: "raise", low: 0, high: 10, weight: 1 };

/** A response as a function of coded settings; categories by the size of each level. */
interface Truth {
  at(settings: Settings): number;
}

/** A truth as effects are in practice: sparse, by heredity, from the smallest change worth finding up. */
function drawnTruth(study: Study, random: Random): Truth {
  const size = (): number => (random.uniform() < 0.5 ? -1 : 1) * SMALLEST * (1 - Math.log(1 - random.uniform()));
  const { factors } = study;
  const active = factors.map(() => random.uniform() < 0.25);
  // Of a category, sizes of its levels that add up to nothing and span as far as a number's effect.
  const levelsOf = (f: Factor): Map<string, number> | undefined => {
    if (isNumeric(f)) return undefined;
    const raw = f.levels.map(() => random.uniform());
    const [low, high] = [Math.min(...raw), Math.max(...raw)];
    const mean = raw.reduce((t, v) => t + v, 0) / raw.length;
    return new Map(f.levels.map((l, i) => [l, (2 * (raw[i] - mean)) / (high - low)]));
  };
  const codes = factors.map(levelsOf);
  const x = (i: number, s: Settings): number => {
    const f = factors[i];
    return isNumeric(f) ? code(f, s[f.id] as number) : (codes[i]?.get(s[f.id] as string) ?? 0);
  };
  const parts: ((s: Settings) => number)[] = [];
  factors.forEach((f, i) => {
    if (active[i]) {
      const half = size() / 2;
      parts.push((s) => half * x(i, s));
    }
    if (canBend(f) && random.uniform() < (active[i] ? 0.1 : 0.01)) {
      const bend = size();
      parts.push((s) => bend * x(i, s) ** 2);
    }
    factors.slice(i + 1).forEach((_, k) => {
      const j = i + 1 + k;
      if (random.uniform() >= [0.01, 0.1, 0.25][Number(active[i]) + Number(active[j])]) return;
      const half = size() / 2;
      parts.push((s) => half * x(i, s) * x(j, s));
    });
  });
  const constant = 10 * (0.1 + 0.5 * random.uniform());
  return { at: (s) => parts.reduce((t, p) => t + p(s), constant) };
}

/** Places that settings are chosen from: five levels of each number up to four factors, else three; all categories. */
function placesOf(study: Study): Settings[] {
  const levels = study.factors.length > 5 ? [-1, 1] : study.factors.length > 4 ? [-1, 0, 1] : [-1, -0.5, 0, 0.5, 1];
  return study.factors.reduce<Settings[]>(
    (all, f) => all.flatMap((s) => (isNumeric(f) ? levels : f.levels).map((v) => ({ ...s, [f.id]: v }))),
    [{}],
  );
}

/** Combinations of levels of all categories. */
const categoriesOf = (study: Study): Settings[] =>
  study.factors.reduce<Settings[]>(
    (all, f) => (isNumeric(f) ? all : all.flatMap((s) => f.levels.map((v) => ({ ...s, [f.id]: v })))),
    [{}],
  );

const numeric = (k: number) =>
  Array.from({ length: k }, (_, i) => ({
    id: String.fromCharCode(97 + i),
    kind: "continuous" as const,
    low: -1,
    high: 1,
  }));
const studyOf = (factors: StudyInput["factors"], response: object = {}): Study =>
  parseStudy({
    format: "trialmoor-study",
    version: 1,
    title: "planted",
    factors,
    responses: [{ id: "y", goal: GOAL, smallest: SMALLEST, noise: 1, ...response }],
  });

/** Results of the trials that have none: the truth with noise, or pieces counted by its logit. */
function ran(study: Study, truth: Truth, random: Random): Study {
  const share = study.responses[0].measured === "share";
  const trials = study.trials.map((t) => {
    if (t.state === "done") return t;
    const value = truth.at(t.settings);
    let events = 0;
    if (share) for (let i = 0; i < 100; i++) if (random.uniform() < logistic(value)) events++;
    const y = share ? { events, of: 100 } : value + random.normal();
    return { ...t, state: "done" as const, results: { y } };
  });
  return { ...study, trials };
}
const logistic = (v: number): number => 1 / (1 + Math.exp(-(v - 5) / 2.5));

type Rule = { name: string; terms(study: Study): Term[] };
const chosenBy =
  (rule: OfferRule | undefined) =>
  (study: Study): Term[] =>
    offeredModel(study, "y", FITTING, undefined, rule).kept;
const FITTING: Fitting = fittingOf(undefined);
const RULES: Rule[] = [
  {
    name: "mains, and squares where places off the corners were run",
    terms(study) {
      const mains = study.factors.map((f): Term => [f.id]);
      const off = study.trials.some((t) => !isCorner(study, t) && !isCentre(study, t));
      return off ? [...mains, ...study.factors.filter(canBend).map((f): Term => [f.id, f.id])] : mains;
    },
  },
  { name: "as offered", terms: chosenBy(undefined) },
  { name: "asked, by AICc", terms: chosenBy({ by: "aicc", alpha: 0.05 }) },
  { name: "asked, by BIC", terms: chosenBy({ by: "bic", alpha: 0.05 }) },
  { name: "asked, by p 0.05", terms: chosenBy({ by: "p", alpha: 0.05 }) },
  { name: "asked, by p 0.15", terms: chosenBy({ by: "p", alpha: 0.15 }) },
];

const planted =
  (study: Study, options: Parameters<typeof makePlan>[1]) =>
  (truth: Truth, random: Random): Study =>
    ran(adoptPlan(study, makePlan(study, { seed: 1 + random.below(1e6), ...options })), truth, random);

interface Kind {
  study: Study;
  run(truth: Truth, random: Random, rule: Rule): Study;
}
const seven = studyOf(numeric(7));
const six = studyOf(numeric(6));
const four = studyOf(numeric(4));
const three = studyOf(numeric(3));
const mixed = studyOf([
  ...numeric(2),
  { id: "k", kind: "categorical", levels: ["p", "q", "r"] },
  { id: "l", kind: "categorical", levels: ["u", "v"] },
]);
const counted = studyOf(numeric(4), {
  measured: "share",
  of: 100,
  smallest: undefined,
  noise: undefined,
  goal: { aim: "raise", low: 0.3, high: 0.95, weight: 1 },
});
const KINDS: Record<string, Kind> = {
  screen: { study: seven, run: planted(seven, { family: "plackett-burman", trials: 12 }) },
  "screen, then carry": {
    study: six,
    run(truth, random, rule) {
      const screened = planted(six, { family: "fraction", trials: 16 })(truth, random);
      const kept = rule.terms(screened);
      // As the station offers it: the factors that stand in the model by any term, two at least, four at most.
      const sizes = sizesOf(
        fitModel(screened, "y", { terms: kept.length > 0 ? kept : six.factors.map((f) => [f.id]) }),
      );
      const named = [...new Set(kept.flat())];
      const order = six.factors.map((f) => f.id).sort((a, b) => (sizes.get(b) ?? 0) - (sizes.get(a) ?? 0));
      const carried = [...named, ...order.filter((id) => !named.includes(id))].slice(
        0,
        Math.min(4, Math.max(2, named.length)),
      );
      const { plan } = followUp(screened, { kind: "carry", factors: carried, seed: 1 + random.below(1e6) });
      return ran(adoptPlan(screened, plan, "carry"), truth, random);
    },
  },
  "fraction, then axial": {
    study: six,
    run(truth, random) {
      const first = planted(six, { family: "fraction", trials: 16, centre: 3 })(truth, random);
      const { plan } = followUp(first, { kind: "axial", seed: 1 + random.below(1e6) });
      return ran(adoptPlan(first, plan, "axial"), truth, random);
    },
  },
  "full factorial": { study: four, run: planted(four, { family: "factorial" }) },
  composite: { study: three, run: planted(three, { family: "composite", centre: 4 }) },
  categories: { study: mixed, run: planted(mixed, { family: "factorial" }) },
  share: { study: counted, run: planted(counted, { family: "factorial" }) },
};

const sizesOf = (fit: Fit): Map<string, number> => {
  const out = new Map<string, number>();
  for (const p of fit.parameters)
    for (const id of p.term) out.set(id, Math.max(out.get(id) ?? 0, Math.abs(p.t ?? p.coefficient)));
  return out;
};

for (const [kind, { study, run }] of Object.entries(KINDS).filter(([n]) => n.includes(ONLY))) {
  const places = placesOf(study);
  const share = study.responses[0].measured === "share";
  const { goal } = study.responses[0];
  const own = (v: number): number => (share ? logistic(v) : v);
  const low = goal.aim === "raise" ? goal.low : 0;
  for (const rule of RULES) {
    const random = seededRandom(2026);
    let near = 0;
    let [promised, met] = [0, 0];
    let loss = 0;
    let terms = 0;
    let [open, sure, sureNear] = [0, 0, 0];
    const start = performance.now();
    for (let i = 0; i < COUNT; i++) {
      const truth = drawnTruth(study, random);
      const dOf = (s: Settings): number => desirability(goal, own(truth.at(s))) ?? 0;
      const done = run(truth, random, rule);
      const chosen = rule.terms(done);
      terms += chosen.length;
      const fit = fitModel(done, "y", { terms: chosen, ...FITTING });
      const read = linearSurface(done, fit);
      const best = Math.max(...places.map(dOf));
      // Highest predicted desirability; of those alike the highest mean.
      let top = { d: -1, value: Number.NEGATIVE_INFINITY, at: places[0] };
      for (const at of places) {
        const value = read.value(at);
        const d = desirability(goal, value) ?? 0;
        if (d > top.d || (d === top.d && value > top.value)) top = { d, value, at };
      }
      const off = best - dOf(top.at);
      loss += off;
      if (off <= 0.05) near++;
      const problem = { region: regionOf(done), responses: done.responses, predictors: new Map([["y", read]]) };
      const free = { numeric: study.factors.filter(isNumeric), listed: categoriesOf(study), fixed: {}, rivals: [] };
      const told = surenessOf(problem, top.at, free, 1);
      if (told && told.share < 0.75) open++;
      else if (off <= 0.05) sureNear++;
      sure += told?.share ?? 0;
      const row = new Float64Array(fit.model.columns.length);
      fit.model.linear(top.at, row);
      const said = fit.model.predictive(row);
      // A one-sided promise of 95 % is the lower end of a two-sided interval of 90 %.
      const end = said.interval(0.9)?.[0];
      if (end !== undefined && fit.model.link.back(end) >= low) {
        promised++;
        if (own(truth.at(top.at)) >= low) met++;
      }
    }
    const percent = (n: number, of: number): string => (of === 0 ? "–" : `${((100 * n) / of).toFixed(1)} %`);
    console.log(
      `${kind}; ${rule.name}: said open ${percent(open, COUNT)}, else within 0.05 ${percent(sureNear, COUNT - open)}, sureness ${percent(sure, COUNT)}; within 0.05 of the best ${percent(near, COUNT)}, mean loss ${(loss / COUNT).toFixed(3)}, promises kept ${percent(met, promised)} of ${promised}, ${(terms / COUNT).toFixed(1)} terms, ${((performance.now() - start) / COUNT).toFixed(0)} ms a study`,
    );
  }
}
