import { countingLaw } from "./counted";
import { shareCounting } from "./counting";

/** Pieces of each trial that are this or that: binomial, logit link, scatter beyond counting by Williams (1982). */
export const binomial = countingLaw(shareCounting, "binomial");
