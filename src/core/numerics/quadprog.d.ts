// The package ships no types of its own; arrays count from 1.
declare module "quadprog" {
  export function solveQP(
    quadratic: number[][],
    linear: number[],
    constraints: number[][],
    bounds: number[],
    equalities?: number,
  ): { solution: number[]; Lagrangian: number[]; message: string };
}
