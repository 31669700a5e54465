import type { Factor, Setting } from "./schema";

/** What a factor is for. A new role is an object here. */
export interface FactorRole {
  id: string;
  /** Whether a factor has it. */
  of(factor: Factor): boolean;
  /** Plans set it, and models may name it. */
  inTrials: boolean;
  /** Once trials are run its setting is chosen, it stands where it is held, or what it does is averaged over. */
  afterwards: "chosen" | "held" | "averaged";
  heldAt?(factor: Factor): Setting | undefined;
}

/** All roles; the first that a factor has is its own, and the last is that of any. */
export const FACTOR_ROLES: readonly FactorRole[] = [
  {
    id: "retired",
    of: ({ retired }) => retired !== undefined,
    inTrials: false,
    afterwards: "held",
    heldAt: ({ retired }) => retired,
  },
  { id: "set", of: () => true, inTrials: true, afterwards: "chosen" },
];

/** How the role of a factor is found among some. */
export const roleAmong =
  (roles: readonly FactorRole[]) =>
  (factor: Factor): FactorRole =>
    roles.find((r) => r.of(factor)) ?? roles[roles.length - 1];

/** The role of a factor. */
export const roleOf = roleAmong(FACTOR_ROLES);
