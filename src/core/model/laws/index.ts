import type { Response } from "../../study/schema";
import { gaussian } from "./gaussian";
import type { Law } from "./law";

/** The law that a response's errors follow: the only place that knows which laws there are. */
export const lawOf = (_response: Response): Law => gaussian;
