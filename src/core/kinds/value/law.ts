import { gaussian } from "../../model/laws/gaussian";
import { pieces } from "../../model/laws/pieces";
import { setups } from "../../model/laws/setups";
import { unequalPieces } from "../../model/pieces";
import type { KindLaw } from "../law";
import { value } from "./result";

/** Values vary normally about their means, within and between set-ups, units of a trial about its own. */
export const valueLaw: KindLaw = {
  gathered: ({ id, several }, trials) =>
    several === "units" ? { pieces: trials.map((t) => value.figures(t.results[id])) } : {},
  onFitted(result, about, link) {
    const found = value.value(result, about);
    return found === null ? null : link.forward(found);
  },
  lawOf({ setups: apart, weights, pieces: units }) {
    if (apart && !weights) return setups;
    return units && unequalPieces(units) ? pieces : gaussian;
  },
};
