import type { Response } from "../../study/schema";
import type { ModelData } from "../data";
import { unequalPieces } from "../pieces";
import { binomial } from "./binomial";
import { countsInSetups, sharesInSetups } from "./empirical";
import { gaussian } from "./gaussian";
import type { Law } from "./law";
import { pieces } from "./pieces";
import { poisson } from "./poisson";
import { setups } from "./setups";

/** The law that a response's errors follow: the only place that knows which laws there are. */
export const lawOf = ({ measured }: Response, data: Pick<ModelData, "setups" | "weights" | "pieces">): Law => {
  if (measured === "share") return data.setups ? sharesInSetups : binomial;
  if (measured === "count") return data.setups ? countsInSetups : poisson;
  if (data.setups && !data.weights) return setups;
  return data.pieces && unequalPieces(data.pieces) ? pieces : gaussian;
};
