import { fitByCounting } from "./counted";
import { counts } from "./counting";
import { judgeCounts } from "./judge";
import type { Law } from "./law";

/** Events over an exposure: Poisson, log link, the exposure as offset, scatter beyond counting by Breslow (1984). */
export const poisson: Law = {
  id: "poisson",
  link: counts.link,
  judge: (study, largest) => judgeCounts(counts, study, largest),
  fit: (input) => fitByCounting(counts, "poisson", input),
};
