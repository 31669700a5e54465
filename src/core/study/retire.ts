import { type Edit, edit } from "./edit";
import type { Settings, Study } from "./schema";

/**
 * Factors that leave plans and models, each held at a setting from now on: their terms go from the models, their
 * settings in trials stay.
 *
 * @param held what each is held at
 */
export const retireFactors = (study: Study, held: Settings): Edit[] => [
  ...study.models
    .filter((m) => m.terms.some((t) => t.some((f) => f in held)))
    .map((m) =>
      edit(
        study,
        ["models", m.response, "terms"],
        m.terms.filter((t) => !t.some((f) => f in held)),
      ),
    ),
  ...Object.entries(held).map(([id, setting]) => edit(study, ["factors", id, "retired"], setting)),
];

/** A retired factor in use again. */
export const bringBack = (study: Study, id: string): Edit[] => [edit(study, ["factors", id, "retired"], null)];
