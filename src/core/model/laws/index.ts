import type { Response } from "../../study/schema";
import { binomial } from "./binomial";
import { gaussian } from "./gaussian";
import type { Law } from "./law";
import { poisson } from "./poisson";

/** The law that a response's errors follow: the only place that knows which laws there are. */
export const lawOf = ({ measured }: Response): Law =>
  measured === "share" ? binomial : measured === "count" ? poisson : gaussian;
