import { countingLaw } from "./counted";
import { eventCounting } from "./counting";

/** Events over an exposure: Poisson, log link, the exposure as offset, scatter beyond counting by Breslow (1984). */
export const poisson = countingLaw(eventCounting, "poisson");
