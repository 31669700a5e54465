import { decode } from "../study/coding";
import type { Memo } from "../study/memo";
import type { Factor, Settings, Study } from "../study/schema";
import type { FittedModel } from "./fitted";
import { type LinearSurface, linearSurface } from "./linear-surface";
import type { Surface } from "./surface";

/** Nodes of one weight whose mean is that of any cubic over −1 … 1 (Chebyshev 1874). */
const NODES = [-Math.SQRT1_2, 0, Math.SQRT1_2];

/** Settings of some factors that stand for all: their levels and listed values, else nodes of their ranges. */
const placesOf = (factors: readonly Factor[]): Settings[] =>
  factors.reduce<Settings[]>(
    (all, f) =>
      all.flatMap((s) => {
        const values =
          f.kind === "categorical" ? f.levels : f.kind === "discrete" ? f.values : NODES.map((x) => decode(f, x));
        return values.map((v) => ({ ...s, [f.id]: v }));
      }),
    [{}],
  );

/** A model whose rows are the mean of those at all places: linear in them, it is averaged over the places itself. */
function atAll(model: FittedModel, places: readonly Settings[], ids: ReadonlySet<string>): FittedModel {
  const each = new Float64Array(model.columns.length);
  const mean = (into: Float64Array, writers: readonly ((row: Float64Array) => void)[]): void => {
    into.fill(0);
    for (const write of writers) {
      write(each);
      for (let j = 0; j < into.length; j++) into[j] += each[j] / writers.length;
    }
  };
  const own: Partial<FittedModel> = {
    terms: model.terms.filter((t) => t.some((id) => !ids.has(id))),
    linear: (settings, into) =>
      mean(
        into,
        places.map((p) => (row) => model.linear({ ...settings, ...p }, row)),
      ),
    varying(settings, moved) {
      const vary = places.map((p) => model.varying({ ...settings, ...p }, moved));
      return (values, into) =>
        mean(
          into,
          vary.map((v) => (row) => v(values, row)),
        );
    },
    withNoise: (s) => atAll(model.withNoise(s), places, ids),
  };
  const averaged: FittedModel = Object.assign(Object.create(model), own);
  const { members } = model;
  return Object.defineProperty(averaged, "members", {
    value:
      members.length === 1
        ? [{ weight: 1, model: averaged }]
        : members.map((m) => ({ ...m, model: atAll(m.model, places, ids) })),
  });
}

/** A surface that says what comes of settings where some factors are not chosen: its mean over all they may be. */
export function averagedOver(study: Study, of: LinearSurface, factors: readonly Factor[], memo: Memo): Surface {
  const ids = new Set(factors.map((f) => f.id));
  const { fit, model, basis, coefficientOf, ...surface } = linearSurface(
    study,
    of.fit,
    memo,
    atAll(of.model, placesOf(factors), ids),
  );
  return {
    ...surface,
    shownOf: of.shownOf.filter((id) => !ids.has(id)),
    speaksOf: of.speaksOf.filter((id) => !ids.has(id)),
    quadratic: () => null,
    influence: () => undefined,
  };
}
