import { fitByCounting } from "./counted";
import { shares } from "./counting";
import { judgeCounts } from "./judge";
import type { Law } from "./law";

/** Pieces of each trial that are this or that: binomial, logit link, scatter beyond counting by Williams (1982). */
export const binomial: Law = {
  id: "binomial",
  link: shares.link,
  judge: (study, largest) => judgeCounts(shares, study, largest),
  fit: (input) => fitByCounting(shares, "binomial", input),
};
