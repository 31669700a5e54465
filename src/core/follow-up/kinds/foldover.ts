import { regularOf } from "../../appraisal/aliasing";
import { generateWords, wordLength, wordText } from "../../appraisal/defining-words";
import type { Message } from "../../messages/message";
import type { RemarkValues } from "../../messages/remarks";
import { isNumeric } from "../../study/coding";
import { StudyError } from "../../study/error";
import { activeFactors } from "../../study/roles";
import type { Factor, Settings, Study, Trial } from "../../study/schema";
import { cornersOf, opposite, tells } from "../corners";
import { chainWhy, membersOf } from "../evidence";
import type { FollowUpKind, IsFollowUp } from "../kind";
import { type FollowOptions, type FollowRuns, namedFactors } from "../options";

/**
 * Fold-over (Box & Hunter 1961): the latest wave of corners again with the factors named (all unless said) at their
 * opposite ends. Half of it (Mee & Peralta 2000) keeps the half that tells most apart.
 * @throws StudyError `wide-category`, `fold-over-idle`, `no-half`
 */
function foldOver(study: Study, options: FollowOptions, isFollowUp: IsFollowUp): FollowRuns {
  const { wave, trials } = cornersOf(study, isFollowUp);
  const active = activeFactors(study);
  const named = namedFactors(study, options.factors);
  const turned = named.length > 0 ? named : options.half ? [bestToTurn(study, wave.id, trials)] : active;
  const wide = turned.find((f) => !isNumeric(f) && f.levels.length > 2);
  if (wide) throw new StudyError("wide-category.factor", { factor: wide.name }, ["factors"]);
  const fold = (t: Trial): Settings => ({
    ...t.settings,
    ...Object.fromEntries(turned.map((f) => [f.id, opposite(study, wave.id, f, t.settings[f.id])])),
  });
  let runs = trials.map((t) => ({ settings: fold(t), kind: "factorial" as const }));
  const cautions: Message<RemarkValues>[] = [];
  const regular = regularOf(study, { settings: trials.map((t) => t.settings), waves: trials.map((t) => t.wave) });
  if (regular) {
    const mask = regular.factors.reduce((m, f, j) => (turned.some((t) => t.id === f.id) ? m | (1 << j) : m), 0);
    const odd = generateWords(regular.plan.basis)
      .filter((w) => wordLength(w.mask & mask) % 2 === 1)
      .map((w) =>
        wordText(
          w,
          regular.factors.map((f) => f.letter),
        ),
      );
    if (regular.definingRelation.length > 0 && odd.length === 0)
      throw new StudyError("fold-over-idle", { words: regular.definingRelation.slice(0, 3) }, ["factors"]);
    if (odd.length > 0) cautions.push({ code: "fold-block", values: { words: odd.slice(0, 3), more: odd.length > 3 } });
  }
  if (options.half) {
    const halves = active
      .filter((f) => isNumeric(f) || f.levels.length === 2)
      .flatMap((f) => {
        const ends = [...new Set(runs.map((r) => r.settings[f.id]))];
        return ends.length === 2 ? ends.map((end) => runs.filter((r) => r.settings[f.id] === end)) : [];
      })
      .filter((half) => half.length * 2 === runs.length);
    if (halves.length === 0) throw new StudyError("no-half", {}, ["half"]);
    const base = trials.map((t) => t.settings);
    runs = halves
      .map((half) => ({
        half,
        separated: tells(
          study,
          [...base, ...half.map((r) => r.settings)],
          [...base.map(() => "a"), ...half.map(() => "b")],
        ),
      }))
      .reduce((a, b) => (b.separated > a.separated ? b : a)).half;
  }
  if (options.centre) cautions.push({ code: "fold-centre", values: {} });
  return { runs, recipe: { factors: turned.map((f) => f.id) }, cautions };
}

/**
 * The one factor whose turning, in halves, tells most apart.
 * @throws StudyError `wide-category`
 */
function bestToTurn(study: Study, wave: string, trials: readonly Trial[]): Factor {
  const base = trials.map((t) => t.settings);
  const able = activeFactors(study).filter((f) => isNumeric(f) || f.levels.length === 2);
  if (able.length === 0) throw new StudyError("wide-category.all", {}, ["factors"]);
  return able
    .map((f) => {
      const turned = trials.map((t) => ({ ...t.settings, [f.id]: opposite(study, wave, f, t.settings[f.id]) }));
      return { f, separated: tells(study, [...base, ...turned], [...base.map(() => "a"), ...turned.map(() => "b")]) };
    })
    .reduce((a, b) => (b.separated > a.separated ? b : a)).f;
}

export const foldover: FollowUpKind = {
  id: "foldover",
  purpose: "fold over",
  offered(evidence) {
    const { factors, parts } = evidence;
    const [chain] = evidence.chained;
    const half = { kind: "foldover", half: true };
    return [
      // Only what would part the chain is offered for it.
      ...(chain && parts(half, membersOf(chain))
        ? [{ place: 21, options: half, name: { code: "half-foldover", values: {} } as const, why: chainWhy(evidence) }]
        : []),
      ...(factors.some((f) => !isNumeric(f) && f.levels.length > 2)
        ? []
        : [
            {
              place: 110,
              also: true as const,
              options: { kind: "foldover" },
              name: { code: "foldover", values: {} } as const,
            },
          ]),
    ];
  },
  make: { runs: foldOver },
};
