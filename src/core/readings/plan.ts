import { type Ask, fewestTrials, type Sight } from "../appraisal/sight";
import { activeFactors } from "../study/coding";
import type { Study } from "../study/schema";
import { termSet } from "../terms/candidates";
import { alphabetOf, termLetters } from "../terms/term";
import { figure, listed, type Reading, ranked, withUnit } from "./reading";

const ASKED = {
  main: "main effects",
  "main+2fi": "main effects and two-factor interactions",
  quadratic: "main effects, interactions and bends",
} as const;

/**
 * Readings on the Plan station: what is asked, what the plans in sight can tell of it, what to do.
 *
 * @param judgedBy id of the response whose noise and smallest change plans are judged by
 */
export function planReadings(study: Study, ask: Ask, sights: readonly Sight[], picked: readonly Sight[], judgedBy?: string): Reading[] {
  const out: Reading[] = [];
  const factors = activeFactors(study);
  if (factors.length < 2)
    return [
      {
        id: "too-few-factors",
        kind: "next step",
        text: "A plan needs at least two factors; add them on Question.",
        evidence: "factors",
        weight: 100,
        action: { label: "Open Question", go: "question" },
      },
    ];
  const alphabet = alphabetOf(study);
  const pairs = (factors.length * (factors.length - 1)) / 2;
  const least = fewestTrials(study, ask.terms);
  out.push({
    id: "fewest-trials",
    kind: "finding",
    text: `${factors.length} factors have ${pairs} two-factor ${pairs === 1 ? "interaction" : "interactions"}: ${least} trials are the least that can tell ${ASKED[ask.terms]} apart.`,
    evidence: "plans",
    weight: 60,
  });
  if (sights.length === 0)
    out.push({
      id: "no-plans",
      kind: "next step",
      text: `No plan on offer fits ${ask.budget} trials. Raise the budget or take centre points and replicates away.`,
      evidence: "plans",
      weight: 95,
    });
  const able = sights.filter((s) => s.tellsAll);
  if (sights.length > 0 && able.length === 0)
    out.push({
      id: "none-tells-all",
      kind: "caution",
      text:
        ask.terms === "quadratic"
          ? "Two-level plans cannot show which factor bends, only whether anything does, from centre points. A second wave with axial points can."
          : `No plan within ${ask.budget} trials tells ${ASKED[ask.terms]} all apart.`,
      evidence: "plans",
      weight: 80,
    });
  const first =
    study.responses.find((r) => r.id === judgedBy && r.noise !== undefined && r.smallest !== undefined) ??
    study.responses.find((r) => r.noise !== undefined && r.smallest !== undefined);
  if (first?.noise !== undefined && first.smallest !== undefined) {
    const noise = first.noise;
    const wanted = first.smallest / noise;
    const sharp = sights.filter((s) => s.ratio !== null && s.ratio <= wanted && !s.noErrorDf).sort((a, b) => a.n - b.n)[0];
    if (sharp)
      out.push({
        id: "sharp-enough",
        kind: "finding",
        text: `With noise ${withUnit(figure(noise), first.unit)} and ${withUnit(figure(first.smallest), first.unit)} worth finding in ${first.name}, ${sharp.n} trials (${sharp.label}) are enough at power ${ask.power.toFixed(2)}.`,
        evidence: "power",
        weight: 70,
      });
    else if (sights.length > 0) {
      const best = sights.filter((s) => s.ratio !== null).sort((a, b) => (a.ratio as number) - (b.ratio as number))[0];
      if (best)
        out.push({
          id: "not-sharp",
          kind: "caution",
          text: `No plan within ${ask.budget} trials would see ${withUnit(figure(first.smallest), first.unit)} in ${first.name} at power ${ask.power.toFixed(2)}; the sharpest sees ${withUnit(figure((best.ratio as number) * noise), first.unit)}.`,
          evidence: "power",
          weight: 78,
        });
    }
  } else if (study.responses.length > 0)
    out.push({
      id: "noise-unknown",
      kind: "next step",
      text: "State noise and the smallest change worth finding of a response, and plans are judged in its units instead of σ.",
      evidence: "responses",
      weight: 50,
      action: { label: "Open Question", go: "question" },
    });
  for (const p of picked) {
    const letter = String.fromCharCode(97 + picked.indexOf(p));
    if (p.lostTerms.length > 0 && ask.terms !== "main" && p.regular) {
      const shared = p.map.filter((m) => m.state === "lost" && m.with.length > 0);
      const example = shared[0];
      if (example)
        out.push({
          id: `chains-${p.id}`,
          kind: "caution",
          text: `Plan ${letter} leaves ${p.lostTerms.length} of ${termSet(study, ask.terms).length} effects in chains: ${termLetters(alphabet, example.term)} cannot be told from ${listed(example.with.slice(0, 3).map((t) => termLetters(alphabet, t)))}. If one turns out active, a second wave must part them.`,
          evidence: "chains",
          weight: 75,
        });
    }
    if (p.resolution === 3)
      out.push({
        id: `resolution-${p.id}`,
        kind: "caution",
        text: `Plan ${letter} is of resolution III: main effects travel with two-factor interactions, so a large interaction looks like a main effect.`,
        evidence: "chains",
        weight: 76,
      });
    if (p.noErrorDf)
      out.push({
        id: `no-df-${p.id}`,
        kind: "caution",
        text: `Plan ${letter} leaves no degrees of freedom for error; its sharpness rests on the stated noise. Centre points or replicates would give it some.`,
        evidence: "df",
        weight: 65,
      });
    if (p.plan.lost > 0)
      out.push({
        id: `lost-${p.id}`,
        kind: "caution",
        text: `The region excludes ${p.plan.lost} trials of plan ${letter}; what is left is no longer balanced.`,
        evidence: "region",
        weight: 74,
      });
  }
  if (ask.centre === 0 && factors.some((f) => f.kind === "continuous") && sights.length > 0)
    out.push({
      id: "no-centre",
      kind: "next step",
      text: "Three centre points would show whether anything bends, and give a pure estimate of noise.",
      evidence: "df",
      weight: 55,
    });
  if (ask.standardOrder)
    out.push({
      id: "standard-order",
      kind: "caution",
      text: "Trials in standard order let anything that drifts with time pass for an effect of the last factors. Randomise unless the process forbids it.",
      evidence: "plans",
      weight: 77,
    });
  if (study.trials.length === 0 && picked.length > 0)
    out.push({
      id: "adopt",
      kind: "next step",
      text: `Adopt the plan that suits, as wave 1. What it leaves open a later wave can part; nothing that was run is lost.`,
      evidence: "plans",
      weight: 30,
    });
  return ranked(out);
}
