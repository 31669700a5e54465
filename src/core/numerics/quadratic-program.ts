import { solveQP } from "quadprog";

/** One linear constraint a′x ≥ b. */
export interface AtLeast {
  of: readonly number[];
  bound: number;
}

/**
 * Minimises ½x′Dx − d′x under linear constraints by the dual active-set method (Goldfarb & Idnani 1983).
 *
 * @param quadratic D, n × n by rows, positive definite
 * @param linear d, of length n
 * @returns the minimiser with one multiplier ≥ 0 per constraint; null when the constraints contradict each other or D
 * is
 * not positive definite
 */
export function quadraticProgram(
  quadratic: readonly (readonly number[])[],
  linear: readonly number[],
  constraints: readonly AtLeast[],
): { x: number[]; multipliers: number[] } | null {
  const n = linear.length;
  const constraintsByVariable = Array.from({ length: n }, (_, i) => [0, ...constraints.map((c) => c.of[i])]);
  const { solution, Lagrangian, message } = solveQP(
    [[], ...quadratic.map((row) => [0, ...row])],
    [0, ...linear],
    [[], ...constraintsByVariable],
    [0, ...constraints.map((c) => c.bound)],
  );
  const x = solution.slice(1, n + 1);
  if (message !== "" || !x.every(Number.isFinite)) return null;
  return { x, multipliers: Lagrangian.slice(1, constraints.length + 1) };
}
