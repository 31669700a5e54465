import type { Migration } from "./migration";

/** Facts that never said whether a setpoint is confirmed: they are worked out anew when studies are listed. */
export const verdicts: Migration = {
  name: "006-verdicts",
  statements: ["UPDATE studies SET facts = NULL WHERE facts LIKE '%chosen, not confirmed%'"],
};
