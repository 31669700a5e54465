import { kindOf } from "../kinds/results";
import type { CheckId, CheckValues } from "../messages/checks";
import type { Message } from "../messages/message";
import { chiSquaredUpper, fQuantile, tTwoSided } from "../numerics/distributions";
import { sumOfSquares } from "../numerics/sums";
import { significance } from "../study/coding";
import { Memo } from "../study/memo";
import type { Study } from "../study/schema";
import { CURVATURE_TERM, termKey, WAVE_TERM } from "../terms/term";
import { isSmallBeside, waveDifferences } from "./block-effects";
import { boxCox, powerOf } from "./box-cox";
import { asAdded, hiddenRatio, hiddenSize, type RankedId, setupSizes } from "./checks";
import { responseOf, storedModel } from "./data";
import { type Fit, fitModel } from "./fit";
import { sizeUnit } from "./fitted";
import { hiddenError, hiddenPull, type LookId, type Ranked, type RankedStatistic, rankErrors } from "./looks";
import { scaleOf } from "./transform";

/** A question about a model with its answer and the figures behind it. */
export type Check = {
  id: CheckId;
  /** Whether the answer is a cause for concern: the adjusted p below 0.05. */
  alarm: boolean;
  statistic: number | null;
  /** Raw, ranked among draws of the same model; null where nothing was tested. */
  p: number | null;
  /** Among all checks of the model. */
  adjusted: number | null;
  /** The model, or its scale, was chosen on these results: p is what it would be had it not been. */
  approximate: boolean;
  /** Which model's errors tell most, where they are not those of the model in force. */
  look?: Exclude<LookId, "in-force">;
  /** The factor, or the trial, it is about. */
  about?: string;
} & Message<CheckValues>;

/** Adjusted p below which a check raises an alarm. */
const ALARM = 0.05;
/** Deleted residuals past this are drawn past a line, and named. */
export const DRAWN_LINE = 3;
/** Largest over smallest result below which powers hardly differ (Box, Hunter & Hunter 2005, chapter 8). */
const SPAN = 3;

/** A fit as every question looks at it. */
interface Looked {
  study: Study;
  memo: Memo;
  fit: Fit;
  approximate: boolean;
  /** None where too little is left over to tell anything of the errors. */
  ranked: Ranked | undefined;
  unit: string;
}

type Outcome = "fine" | "perhaps" | "off";

/** Whether a statistic is nothing, something by itself, or an alarm. */
const outcome = ({ p, adjusted }: RankedStatistic, { fit }: Looked): Outcome =>
  adjusted <= ALARM ? "off" : p < significance(fit) ? "perhaps" : "fine";

const untold = (id: CheckId): Check => ({
  id,
  alarm: false,
  statistic: null,
  p: null,
  adjusted: null,
  approximate: false,
  code: "too-few",
  values: {},
});

/**
 * What a ranked check has whatever it says.
 *
 * @param bound a p that the true one cannot pass, by Student's t and Bonferroni: it tells more where the data's own
 *   value is the largest of all vectors
 */
function judged(looked: Looked, id: RankedId, bound = 1): { own: RankedStatistic; so: Outcome } | undefined {
  const own = looked.ranked?.own.get(id);
  if (!own || !looked.ranked) return undefined;
  const p = own.p * looked.ranked.vectors < 1.5 ? Math.min(own.p, own.models * bound) : own.p;
  return { own: { ...own, p }, so: outcome(own, looked) };
}

const common = (id: CheckId, looked: Looked, own: RankedStatistic, statistic = own.value) => ({
  id,
  alarm: own.adjusted <= ALARM,
  statistic,
  p: own.p,
  adjusted: own.adjusted,
  approximate: looked.approximate,
});

const both = ({ p, adjusted }: RankedStatistic): Pick<RankedStatistic, "p" | "adjusted"> => ({ p, adjusted });

function bellCheck(looked: Looked): Check {
  const found = judged(looked, "bell");
  if (!found) return untold("bell");
  const { own, so } = found;
  const head = common("bell", looked, own);
  return so === "fine"
    ? { ...head, code: "bell-fine", values: { n: looked.fit.n, ...both(own) } }
    : { ...head, code: `bell-${so}`, values: both(own) };
}

function spreadCheck(looked: Looked): Check {
  const found = judged(looked, "spread");
  if (!found) return untold("spread");
  return { ...common("spread", looked, found.own), code: `spread-${found.so}`, values: both(found.own) };
}

function spreadFactorCheck(looked: Looked): Check {
  const found = judged(looked, "spread-factor");
  const { study, fit, ranked } = looked;
  if (!found || !ranked) return untold("spread-factor");
  const sized = ranked.family.factors.map((f) => {
    const groups = f.groups
      .map((g) => {
        const own = g.places.map((i) => ranked.standard[i] ?? 0);
        return { label: g.label, s: Math.sqrt(sumOfSquares(own) / (own.length - 1)) };
      })
      .sort((a, b) => b.s - a.s);
    const narrow = groups[groups.length - 1];
    return { f, wide: groups[0], narrow, ratio: narrow.s > 0 ? groups[0].s / narrow.s : Number.POSITIVE_INFINITY };
  });
  const strongest = sized.reduce((a, b) => (b.ratio > a.ratio ? b : a));
  const factor = study.factors.find((f) => f.id === strongest.f.factor)?.name ?? strongest.f.factor;
  const ratio = Number.isFinite(strongest.ratio) ? strongest.ratio : null;
  const head = { ...common("spread-factor", looked, found.own), statistic: ratio, about: strongest.f.factor };
  if (found.so === "fine")
    return {
      ...head,
      code: "spread-factor-fine",
      values: { factor, among: sized.length, ratio: hiddenRatio(fit, strongest.f), ...both(found.own) },
    };
  const sides = { wide: strongest.wide.label, narrow: strongest.narrow.label, ratio: ratio ?? 1e6 };
  return { ...head, code: `spread-factor-${found.so}`, values: { factor, ...sides, ...both(found.own) } };
}

function orderCheck(looked: Looked): Check {
  const { fit, ranked, unit } = looked;
  const slope = ranked?.family.order && asAdded(fit, ranked.family.order);
  const found = judged(looked, "order", slope?.p);
  if (!found || !slope) return untold("order");
  const head = common("order", looked, found.own, slope.coefficient);
  return found.so === "fine"
    ? { ...head, code: "order-fine", values: { hidden: slope.hidden * (fit.n - 1), unit, ...both(found.own) } }
    : { ...head, code: `order-${found.so}`, values: { slope: slope.coefficient, unit, ...both(found.own) } };
}

function neighboursCheck(looked: Looked): Check {
  const found = judged(looked, "neighbours");
  if (!found) return untold("neighbours");
  const head = common("neighbours", looked, found.own);
  return found.so === "fine"
    ? { ...head, code: "neighbours-fine", values: both(found.own) }
    : { ...head, code: `neighbours-${found.so}`, values: { alike: found.own.value < 2, ...both(found.own) } };
}

function singleCheck(looked: Looked): Check {
  const { study, fit, unit } = looked;
  const largest = fit.trials.reduce((m, t) => Math.max(m, Math.abs(t.deleted ?? 0)), 0);
  const df = fit.summary.residualDf;
  const found = judged(looked, "single", df > 1 ? Math.min(1, fit.n * tTwoSided(largest, df - 1)) : 1);
  if (!found) return untold("single");
  const orderOf = (id: string): number => study.trials.find((t) => t.id === id)?.order ?? 0;
  // Its own error is all the error there is: without it the model passes through every other result.
  const all = fit.trials.find(
    (t) => t.studentized !== null && t.deleted === null && t.studentized ** 2 >= df * (1 - 1e-9),
  );
  const head = common("single", looked, found.own);
  if (all)
    return {
      ...head,
      alarm: true,
      about: all.id,
      code: "single-all",
      values: { order: orderOf(all.id) },
      statistic: null,
    };
  const sizes = fit.trials.flatMap((t) => (t.deleted === null ? [] : [{ id: t.id, size: Math.abs(t.deleted) }]));
  if (sizes.length === 0) return untold("single");
  const far = sizes.reduce((a, b) => (b.size > a.size ? b : a));
  const named = { ...head, statistic: fit.trials.find((t) => t.id === far.id)?.deleted ?? null, about: far.id };
  if (found.so === "off")
    return {
      ...named,
      code: "single-off",
      values: { order: orderOf(far.id), size: far.size, n: fit.n, ...both(found.own) },
    };
  const past = sizes.filter((t) => t.size > DRAWN_LINE || (found.so === "perhaps" && t === far));
  return past.length > 0
    ? {
        ...named,
        code: "single-perhaps",
        values: { trials: past.map((t) => ({ order: orderOf(t.id), size: t.size })), ...both(found.own) },
      }
    : {
        ...named,
        code: "single-fine",
        values: {
          largest: far.size,
          hidden: looked.ranked ? hiddenError(looked.ranked) : null,
          unit,
          ...both(found.own),
        },
      };
}

/** Whether what all trials of one set-up have in common is more than set-ups vary by. */
function setupCheck(looked: Looked): Check | undefined {
  const { study, fit, ranked } = looked;
  const found = judged(looked, "setup");
  if (!found || !ranked) return undefined;
  const { setups } = ranked.family;
  const sizes = setupSizes(
    setups,
    fit.model.residuals("scaled").map((e) => e ?? 0),
  );
  const sized = setups.map(({ places }, g) => ({ trial: fit.data.trials[places[0]], size: sizes[g] }));
  const { trial, size } = sized.reduce((a, b) => (b.size > a.size ? b : a));
  const head = { ...common("setup", looked, found.own), about: trial.id };
  const among = sized.length;
  if (found.so === "fine") return { ...head, code: "setup-fine", values: { size, among, ...both(found.own) } };
  const wave = study.waves.find((w) => w.id === trial.wave)?.name ?? trial.wave;
  return {
    ...head,
    code: `setup-${found.so}`,
    values: { wave, setup: trial.setup ?? 0, size, among, ...both(found.own) },
  };
}

function pullCheck(looked: Looked): Check {
  const found = judged(looked, "pull");
  if (!found) return untold("pull");
  const { study, fit } = looked;
  const heavy = fit.trials.reduce((a, b) => ((b.cooks ?? 0) > (a.cooks ?? 0) ? b : a));
  const distance = heavy.cooks ?? 0;
  const order = study.trials.find((t) => t.id === heavy.id)?.order ?? 0;
  const drawn = Math.min(1, fQuantile(0.5, fit.parameters.length, fit.summary.residualDf));
  const so = found.so === "fine" && distance > drawn ? "perhaps" : found.so;
  const head = { ...common("pull", looked, found.own, distance), about: heavy.id };
  if (so === "fine") {
    const least = looked.ranked && hiddenPull(looked.ranked);
    const hidden = least
      ? { order: study.trials.find((t) => t.id === least.trial)?.order ?? 0, size: least.size }
      : null;
    return { ...head, code: "pull-fine", values: { distance, hidden, unit: looked.unit, ...both(found.own) } };
  }
  return { ...head, code: `pull-${so}`, values: { order, distance, ...both(found.own) } };
}

/** The centre against the plane of the corners, whether its column is in the model or out of it. */
function centreBend(looked: Looked): Check {
  const { study, fit, unit, memo } = looked;
  const judging = fit.fitting.curvature
    ? fit
    : fitModel(study, fit.response, { terms: fit.terms, ...fit.fitting, curvature: true }, memo);
  const key = termKey(CURVATURE_TERM);
  const lost = judging.dropped.find((d) => termKey(d.term) === key);
  if (lost?.equals.some((e) => termKey(e.term) === termKey(WAVE_TERM))) {
    const shift = judging.anova.find((r) => r.source === "wave");
    return {
      ...untold("bend"),
      p: shift?.p ?? null,
      statistic: shift?.f ?? null,
      code: "bend-or-shift",
      values: { p: shift?.p ?? null },
    };
  }
  const c = judging.parameters.find((p) => termKey(p.term) === key);
  if (!c || c.p === null || c.standardError === null) return untold("bend");
  const clear = c.p < significance(fit);
  // Where errors can be ranked the alarm is one among all of the model's; else its own p is all there is.
  const adjusted = looked.ranked?.own.get("bend")?.adjusted ?? null;
  const head = { ...untold("bend"), statistic: c.coefficient, p: c.p, adjusted };
  if (clear && adjusted !== null && adjusted > ALARM)
    return { ...head, code: "bend-centre-perhaps", values: { size: c.coefficient, unit, p: c.p, adjusted } };
  if (clear) return { ...head, alarm: true, code: "bend-centre-off", values: { size: c.coefficient, unit, p: c.p } };
  const hidden = hiddenSize(judging, c.standardError, judging.summary.residualDf);
  return { ...head, code: "bend-centre-fine", values: { hidden, unit, p: c.p } };
}

/** Whether a square is missing. */
function bendCheck(looked: Looked): Check {
  const { study, fit, ranked, unit } = looked;
  if (fit.centre) return centreBend(looked);
  if (!ranked) return untold("bend");
  const squares = fit.terms.some((t) => t.length === 2 && t[0] === t[1]);
  const tested = ranked.family.bends.flatMap((b) => {
    const added = asAdded(fit, b);
    return added ? [{ ...added, together: b.together }] : [];
  });
  if (tested.length === 0) {
    const none = ranked.family.bends.length === 0;
    return none ? { ...untold("bend"), code: squares ? "bend-carried" : "bend-untold", values: {} } : untold("bend");
  }
  const strongest = tested.reduce((a, b) => (b.p < a.p ? b : a));
  const found = judged(looked, "bend", Math.min(1, tested.length * strongest.p));
  if (!found) return untold("bend");
  const factors = strongest.together.map((id) => study.factors.find((f) => f.id === id)?.name ?? id);
  const head = { ...common("bend", looked, found.own, strongest.coefficient), about: strongest.together[0] };
  return found.so === "fine"
    ? {
        ...head,
        code: "bend-fine",
        values: { factors, hidden: strongest.hidden, unit, among: tested.length, ...both(found.own) },
      }
    : {
        ...head,
        code: `bend-${found.so}`,
        values: { factors, size: strongest.coefficient, unit, squareP: strongest.p, ...both(found.own) },
      };
}

/** Whether the model misses more than trials alike differ by: its exact F, in the family of all checks. */
function misfitCheck(looked: Looked): Check | undefined {
  const { lackOfFit } = looked.fit;
  if (!lackOfFit || lackOfFit.f === null || lackOfFit.p === null) return undefined;
  const found = judged(looked, "misfit", lackOfFit.p);
  if (!found) return undefined;
  const { f, df, pureErrorDf, p } = lackOfFit;
  const own = found.own.models > 1 ? found.own : { ...found.own, p };
  const so = outcome(own, looked);
  return { ...common("misfit", looked, own, f), code: `misfit-${so}`, values: { f, df, pureErrorDf, ...both(own) } };
}

/** Whether another scale would fit better; not asked of a spread, which is always fitted as a logarithm. */
function scaleCheck({ study, fit }: Looked): Check | undefined {
  const about = responseOf(study, fit.response);
  if (about.spread || !kindOf(about).rescaled) return undefined;
  const profile = boxCox(fit);
  const present = powerOf(fit.transform);
  const head = untold("scale");
  const { y } = fit.data;
  if (!profile) return y.some((v) => !(v > 0)) ? { ...head, code: "scale-below-zero", values: {} } : head;
  const [low, high] = profile.interval;
  const fine = present !== undefined && present >= low && present <= high;
  const ratio = Math.max(...y) / Math.min(...y);
  const said = { ...head, statistic: profile.best };
  if (fine) return { ...said, code: "scale-fine", values: { low, high } };
  if (ratio < SPAN) return { ...said, code: "scale-hardly", values: { low, high, ratio } };
  const scale = scaleOf(profile.advice).name;
  return { ...said, alarm: present !== undefined, code: "scale-other", values: { low, high, scale } };
}

/** Whether copies, or repeats, scatter alike. */
function copiesCheck(looked: Looked): Check | undefined {
  const copies = looked.ranked?.family.copies;
  const found = judged(looked, "copies");
  if (!copies || !found) return undefined;
  const { worst, pooled, cells } = copies;
  return {
    ...common(copies.from === "repeats" ? "repeats" : "copies", looked, found.own, worst.s / pooled),
    approximate: false,
    code: `copies-${found.so}`,
    values: {
      orders: worst.orders,
      s: worst.s,
      pooled,
      among: cells.length,
      overWaves: copies.overWaves,
      ...both(found.own),
    },
  };
}

/** Chance that counting alone would scatter as much, below which it is said to scatter more; and its opposite. */
const TELLING = 0.05;

/** Whether trials scatter by more than counting gives: Pearson's X² with pieces independent, by χ². */
function countingCheck({ fit }: Looked): Check | undefined {
  const { likelihood: counted } = fit.model;
  if (!counted) return undefined;
  const df = fit.summary.residualDf;
  const head = untold("counting");
  if (df < 1 || counted.dispersion === null) return head;
  const times = counted.countingPearson / df;
  const p = chiSquaredUpper(counted.countingPearson, df);
  const values = { times, p, carried: !counted.counting };
  const said = { ...head, statistic: times, p };
  if (p < TELLING) return { ...said, alarm: counted.counting, code: "counting-more", values };
  return { ...said, code: 1 - p < TELLING / 5 ? "counting-less" : "counting-fine", values };
}

/** Whether waves differ; a difference is no fault, so it raises no alarm. */
function wavesCheck({ study, fit, unit }: Looked): Check | undefined {
  const row = fit.anova.find((r) => r.source === "wave");
  if (!row) return undefined;
  const [largest] = waveDifferences(study, fit);
  if (row.p === null || !largest) return untold("waves");
  const { above, below, size, interval } = largest;
  const head = { ...untold("waves"), statistic: row.f, p: row.p };
  return row.p < significance(fit)
    ? { ...head, code: "waves-differ", values: { above, below, size, interval, unit, p: row.p } }
    : {
        ...head,
        code: "waves-alike",
        values: { p: row.p, above, below, interval, unit, out: isSmallBeside(study, fit, interval) },
      };
}

/** Whether the scale, or the terms by reducing, were chosen on the results that the checks now judge. */
function wasChosen(study: Study, fit: Fit): boolean {
  if (fit.transform !== "none" && !study.responses.find((r) => r.id === fit.response)?.spread) return true;
  const key = fit.terms.map(termKey).join("|");
  return (storedModel(study, fit.response)?.steps ?? []).some(
    (s) => s.by !== undefined && s.terms.map(termKey).join("|") === key,
  );
}

/** In the order they are asked; those that are ranked, of every model whose errors are looked at. */
const QUESTIONS: { ranked?: RankedId; ask: (looked: Looked) => Check | undefined }[] = [
  { ranked: "bell", ask: bellCheck },
  { ranked: "spread", ask: spreadCheck },
  { ranked: "spread-factor", ask: spreadFactorCheck },
  { ranked: "order", ask: orderCheck },
  { ranked: "neighbours", ask: neighboursCheck },
  { ranked: "single", ask: singleCheck },
  { ranked: "setup", ask: setupCheck },
  { ranked: "pull", ask: pullCheck },
  { ranked: "bend", ask: bendCheck },
  { ranked: "misfit", ask: misfitCheck },
  { ask: scaleCheck },
  { ranked: "copies", ask: copiesCheck },
  { ask: countingCheck },
  { ask: wavesCheck },
];

const isFine = (check: Check): boolean => check.code.endsWith("-fine");

/** The smallest that a null answer would have shown, on the scale of answers of its code; none where it names none. */
function hiddenIn({ code, values }: Check): number {
  const v = values as { hidden?: number | { size: number } | null; ratio?: number };
  const size = typeof v.hidden === "object" ? v.hidden?.size : v.hidden;
  return size ?? (code === "spread-factor-fine" ? v.ratio : undefined) ?? Number.POSITIVE_INFINITY;
}

/** An answer, with how far its statistic lies out among its like. */
interface Answer {
  check: Check;
  share: number;
}

/** The sharper of two answers to one question: the likelier cause for concern, else what would have shown less. */
function sharper(a: Answer, b: Answer): Answer {
  if (isFine(a.check) && isFine(b.check)) return hiddenIn(b.check) < hiddenIn(a.check) ? b : a;
  return b.share < a.share ? b : a;
}

/**
 * The questions a careful person asks of a model, each answered with its figure. Too little to tell is said as such.
 */
export function runChecks(study: Study, fit: Fit, memo = new Memo()): Check[] {
  const inForce = { study, fit, memo, approximate: wasChosen(study, fit), unit: sizeUnit(fit.model) };
  const [ranked, ...others] = rankErrors(study, fit, memo);
  return QUESTIONS.flatMap(({ ranked: id, ask }) => {
    const own = ask({ ...inForce, ranked });
    if (!own || id === undefined) return own ?? [];
    return others
      .filter(({ family }) => family.ids.includes(id))
      .flatMap((r): Answer[] => {
        const check = ask({ ...inForce, fit: r.fit, ranked: r });
        if (!check || check.adjusted === null) return [];
        const look = r.of === "in-force" ? {} : { look: r.of };
        return [{ check: { ...check, ...look, approximate: true }, share: r.own.get(id)?.share ?? 1 }];
      })
      .reduce(sharper, { check: own, share: ranked?.own.get(id)?.share ?? 1 }).check;
  });
}
