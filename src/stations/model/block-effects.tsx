"use client";
import type { BlockEffect } from "@/core/model";
import { figure, pShown } from "@/ui/parts/format";
import { Bar, RungFigures } from "./bar";
import css from "./model.module.css";

/** What a rung beside the terms is called, and what it says to those who point at it. */
function namesOf(rung: BlockEffect): { name: string; small: string; title: string } {
  if (rung.id === "curvature")
    return {
      name: "Curvature",
      small: rung.lost ? "not told from a shift of waves" : "centre off the plane",
      title: rung.inModel
        ? "The centre has a column of its own, so that a bend is not taken for noise; space takes it out"
        : "Taken out: a bend counts as lack of fit; space takes it in",
    };
  const [d] = rung.differences;
  return {
    name: "Waves",
    small: d ? `${d.above} over ${d.below}` : "cannot be told from the terms",
    title: rung.inModel
      ? "Each wave has a level of its own, so that a shift is not taken for an effect; space takes them out"
      : "Taken out: differences between waves count as noise or go into the effects; space takes them in",
  };
}

/** Rungs of what stands beside the terms: waves and curvature, taken in or out like a term. */
export function BlockEffects({
  rungs,
  reach,
  unit,
  set,
}: {
  rungs: readonly BlockEffect[];
  reach: number;
  unit: string;
  set(rung: BlockEffect, inModel: boolean): void;
}) {
  return rungs.map((r) => {
    const { name, small, title } = namesOf(r);
    const size = r.size === null ? "not told" : `${figure(r.size, 3)} ${unit}`;
    return (
      <button
        key={r.id}
        type="button"
        role="switch"
        aria-checked={r.inModel}
        aria-label={`${name} (${small}): ${size}${r.p === null ? "" : `, ${pShown(r.p)}`}${r.inModel ? ", in the model" : ", out of the model"}`}
        title={title}
        className={`${css.rung} ${css.standing}`}
        data-in={r.inModel ? "yes" : "no"}
        onClick={() => set(r, !r.inModel)}
      >
        <span className={css.term}>
          <span>{name}</span>
          <small>{small}</small>
        </span>
        <Bar rung={r} reach={reach} />
        <span className={css.figures}>
          <RungFigures rung={r} />
        </span>
      </button>
    );
  });
}
